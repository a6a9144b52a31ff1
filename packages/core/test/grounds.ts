import { revolved, sheet, type Soup } from './shapes';

/** A saddle with a boss on it: bent both ways, up to 50°, with a sharp foot. */
export const saddle: Soup = sheet([-20, -16, 20, 16], 0.25, -30, (x, y) => {
  const ground = -8 + x ** 2 / 60 - y ** 2 / 40;
  const r = Math.hypot(x - 4, y + 2);
  return r < 5 ? Math.max(ground, -4 - r * r * 0.02) : ground;
});
/** Half of a shoe sole: a waisted ridge with a wavy roof on a plate, its sides at 68°. */
export const sole: Soup = sheet([-30, -14, 30, 14], 0.25, -25, (x, y) => {
  const waist = 9 - 2.2 * Math.cos((x + 4) / 9);
  const inside = waist - Math.abs(y) - Math.max(0, Math.abs(x) - 22);
  return Math.max(-9, Math.min(-1.5 + 0.8 * Math.sin(x / 8) - 0.01 * y * y, -9 + 2.5 * inside));
});
/** Level rings, walls of 65° and a round bottom. */
export const steppedBowl: Soup = sheet([-18, -18, 18, 18], 0.25, -25, (x, y) => {
  const r = Math.hypot(x, y);
  const wall = (from: number, top: number): number => top + Math.min(0, (r - from) * Math.tan((65 * Math.PI) / 180));
  return Math.min(0, Math.max(-11 + r * r * 0.02, wall(15, 0), Math.min(-5, wall(10, -5))));
});
/** Its radius, mm. */
export const DOME = 11;
/** A half ball on a plate. */
export const dome: Soup = revolved(
  [
    ...Array.from({ length: 91 }, (_, k): [number, number] => {
      const a = (k * Math.PI) / 180;
      return [DOME * Math.sin(a), DOME * (Math.cos(a) - 1)];
    }),
    [20, -DOME],
    [20, -15],
    [0, -15],
  ],
  180,
);

/** Height of steep thin pegs over a leaning floor. */
export function pegs(x: number, y: number): number {
  const all = [
    [-12, -7, 0, 2.4],
    [-3, 8, -4, 1.4],
    [7, -5, -2, 1.8],
    [14, 6, 0, 3],
  ] as const;
  return Math.max(-13 + 0.1 * x, ...all.map(([px, py, z, r]) => z - 9 * Math.max(0, Math.hypot(x - px, y - py) - r)));
}
