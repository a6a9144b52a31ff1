import { z } from 'zod';
import type { Point2 } from './outline';

/** What can be drawn by its sizes. */
export const SHAPES = ['rectangle', 'circle', 'slot', 'polygon'] as const;

const length = z.number().positive('Above 0.').max(10_000);
const place = z.number().min(-10_000).max(10_000);

/** An outline that is drawn by its sizes, about its middle; lengths in mm. */
export const shapeSchema = z.object({
  kind: z.enum(SHAPES),
  x: place,
  y: place,
  /** Turned by this about its middle, degrees. */
  turn: z.number().min(-360).max(360),
  /** Along X: of a circle its diameter, of a slot from end to end, of a polygon across its corners. */
  length,
  /** Along Y: of rectangles and slots. */
  width: length,
  /** Radius of a rectangle's corners. */
  corner: z.number().min(0).max(5000),
  /** Of a polygon. */
  sides: z.int('A whole number.').min(3, 'At least 3.').max(60),
});
export type Shape = z.infer<typeof shapeSchema>;

/** Chords of drawn arcs are off by this at most, mm. */
const CHORD_MM = 0.002;

/** What is wrong with a shape's sizes beside each other, in words; undefined when nothing is. */
export function shapeProblem({
  kind,
  length: a,
  width: b,
  corner,
}: Shape): { key: keyof Shape; message: string } | undefined {
  if (kind === 'rectangle' && corner > Math.min(a, b) / 2)
    return {
      key: 'corner',
      message: `Corners of ${corner} mm do not fit: half of the shorter side is ${Math.min(a, b) / 2} mm.`,
    };
  if (kind === 'slot' && a < b) return { key: 'length', message: `A slot is at least as long as it is wide, ${b} mm.` };
  return undefined;
}

/** The outline of a shape, counter-clockwise, mm. Arcs lie inside by a chord's height at most. */
export function outlineOfShape({ kind, x, y, turn, length: a, width: b, corner, sides }: Shape): Point2[] {
  const points: Point2[] = [];
  /** A part of a circle about (cx, cy), from an angle on, degrees. */
  const arc = (cx: number, cy: number, r: number, from: number, by: number): void => {
    const chord = 2 * Math.acos(Math.max(0.5, 1 - CHORD_MM / Math.max(r, CHORD_MM)));
    const n = Math.max(1, Math.ceil(((by * Math.PI) / 180 / chord) * (1 - 1e-9)));
    const isWhole = by === 360;
    for (let k = 0; k <= (isWhole ? n - 1 : n); k++) {
      const t = ((from + (by * k) / n) * Math.PI) / 180;
      points.push([cx + r * Math.cos(t), cy + r * Math.sin(t)]);
    }
  };
  if (kind === 'circle') arc(0, 0, a / 2, 0, 360);
  else if (kind === 'slot') {
    arc((a - b) / 2, 0, b / 2, -90, 180);
    arc((b - a) / 2, 0, b / 2, 90, 180);
  } else if (kind === 'polygon')
    for (let k = 0; k < sides; k++) {
      const t = (2 * Math.PI * k) / sides;
      points.push([(a / 2) * Math.cos(t), (a / 2) * Math.sin(t)]);
    }
  else
    for (const [sx, sy, from] of [
      [1, -1, -90],
      [1, 1, 0],
      [-1, 1, 90],
      [-1, -1, 180],
    ] as const) {
      const [cx, cy] = [sx * (a / 2 - corner), sy * (b / 2 - corner)];
      if (corner > 0) arc(cx, cy, corner, from, 90);
      else points.push([cx, cy]);
    }
  const [cos, sin] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  return points.map(([px, py]): Point2 => [x + cos * px - sin * py, y + sin * px + cos * py]);
}
