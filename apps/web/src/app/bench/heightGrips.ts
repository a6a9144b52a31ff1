import type { Vec3 } from '@esquisse/core';

/** A height between which the chosen step is held, or that is open and would begin at an end of the block. */
export interface HeightGrip {
  /** Key of the step's value, and its label. */
  key: string;
  label: string;
  /** In the frame of the work zero, mm. */
  z: number;
  /** The value is empty: where the step begins or ends is left to it. */
  isOpen: boolean;
}

/** Where a place of the frame of the work zero is seen, pixels. */
export type Seen = (x: number, y: number, z: number) => readonly [number, number];

/** A frame this near to the pointer is meant, pixels. */
const GRIP_PIXELS = 6;
/** A level place of the part this near holds a height that is dragged past it, pixels. */
const HOLD_PIXELS = 5;
/** Looked at so steeply that a millimetre of height is seen as less, in pixels, a height cannot be dragged. */
const LEAST_PIXELS_PER_MM = 0.2;
/** Ends of an edge that differ by less lie at one height, mm. */
const LEVEL_MM = 1e-4;
/** Steps of a height that is dragged freely, in the unit that is shown: the largest that is seen as two pixels at most. */
const STEPS = [10, 5, 1, 0.5, 0.1, 0.05, 0.01, 0.005, 0.001];

/** A frame around the block at a height, as its corners one after another. */
export function frameCorners(
  { minX, maxX, minY, maxY }: { minX: number; maxX: number; minY: number; maxY: number },
  beside: number,
): [number, number][] {
  const [x, X, y, Y] = [minX - beside, maxX + beside, minY - beside, maxY + beside];
  return [
    [x, y],
    [X, y],
    [X, Y],
    [x, Y],
  ];
}

/** The height whose frame is seen nearest to a place of the picture, if it is near enough and can be dragged. */
export function gripAt(
  grips: readonly HeightGrip[],
  corners: readonly (readonly [number, number])[],
  seen: Seen,
  at: readonly [number, number],
): HeightGrip | undefined {
  let best: HeightGrip | undefined;
  let nearest = GRIP_PIXELS;
  for (const grip of grips) {
    const [x, y] = corners[0]!;
    if (Math.hypot(...perMm(seen, x, y, grip.z)) < LEAST_PIXELS_PER_MM) continue;
    const ring = corners.map(([u, v]) => seen(u, v, grip.z));
    ring.forEach((a, k) => {
      const d = toSegment(at, a, ring[(k + 1) % ring.length]!);
      // of two that are seen at one place the one that has a value
      if (d < nearest || (d === nearest && best?.isOpen && !grip.isOpen)) [nearest, best] = [d, grip];
    });
  }
  return best;
}

/** How far, in pixels to the right and down, a millimetre of height is seen. */
function perMm(seen: Seen, x: number, y: number, z: number): [number, number] {
  const [a, b] = [seen(x, y, z), seen(x, y, z + 1)];
  return [b[0] - a[0], b[1] - a[1]];
}

function toSegment(
  [x, y]: readonly [number, number],
  [ax, ay]: readonly [number, number],
  [bx, by]: readonly [number, number],
): number {
  const [dx, dy] = [bx - ax, by - ay];
  const along = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(x - ax - along * dx, y - ay - along * dy);
}

/**
 * The height to which a frame is dragged: held by level places of the part that lie near, else in whole steps.
 *
 * @param from height at which it was taken hold of, mm
 * @param moved how far the pointer went since, pixels to the right and down
 * @param levels heights that hold it, mm, in any order
 * @param unit mm of the unit that is shown
 */
export function draggedTo(
  from: number,
  seen: Seen,
  moved: readonly [number, number],
  levels: Iterable<number>,
  unit = 1,
): number {
  const [px, py] = perMm(seen, 0, 0, from);
  const pixels = Math.hypot(px, py);
  const free = from + (moved[0] * px + moved[1] * py) / (pixels * pixels);
  let held: number | undefined;
  for (const level of levels)
    if (Math.abs(level - free) * pixels < HOLD_PIXELS && !(Math.abs(held! - free) <= Math.abs(level - free)))
      held = level;
  if (held !== undefined) return held;
  const step = unit * (STEPS.find((s) => s * unit * pixels <= 2) ?? STEPS.at(-1)!);
  return Math.round(Math.round(free / step) * step * 1e4) / 1e4;
}

/**
 * Heights of the level edges of a part, each once.
 *
 * @param folds ends of its edges, six numbers each, in the part's own frame
 * @param up direction of the spindle in that frame
 * @param zero height of the work zero in the laid frame, mm
 * @returns heights in the frame of the work zero, mm, to a tenth of a micrometre
 */
export function levelPlaces(folds: Float32Array, up: Readonly<Vec3>, zero: number): Set<number> {
  const levels = new Set<number>();
  const height = (k: number): number => folds[k]! * up[0] + folds[k + 1]! * up[1] + folds[k + 2]! * up[2];
  for (let k = 0; k + 5 < folds.length; k += 6) {
    const z = height(k);
    // ends are kept in single precision
    const near = Math.max(LEVEL_MM, Math.abs(z) * 1e-6);
    if (Math.abs(height(k + 3) - z) < near) levels.add(Math.round((z - zero) * 1e4) / 1e4);
  }
  return levels;
}
