import type { Box } from '../geometry/box';
import type { Point2 } from '../geometry/outline';
import type { Blank } from './job';

/** Thicknesses and widths that bar and plate are sold in, mm: common practice, no source. */
const THICKNESSES = [
  10, 12, 16, 20, 25, 30, 36, 40, 46, 50, 56, 60, 66, 70, 76, 80, 86, 96, 100, 116, 120, 136, 146, 156, 160, 176, 196,
  200, 246, 250, 296, 300, 346, 396,
];
const WIDTHS = [
  50, 60, 80, 96, 100, 126, 130, 146, 150, 156, 160, 170, 180, 196, 200, 220, 246, 250, 270, 296, 300, 346, 350, 396,
  400, 446, 450, 496, 500, 546, 596, 600, 696, 796, 996, 1196,
];
/** What is milled off a rolled skin at least, mm, above the part. */
const SKIN_MM = 0.5;

/** The smallest block of the standard list that a part of this size fits in, mm; its own size, rounded up, beyond the list. */
export function standardBlock([x, y, z]: readonly [number, number, number]): [number, number, number] {
  const next = (list: readonly number[], size: number): number => list.find((v) => v >= size - 1e-6) ?? Math.ceil(size);
  return [next(WIDTHS, x), next(WIDTHS, y), next(THICKNESSES, z + SKIN_MM)];
}

/** A plate of an outline (laid frame, mm), from the underside of the block that there is to its top. */
export function outlineBlank(source: string, points: Point2[], part: Box, block: Box): Blank & { kind: 'outline' } {
  return {
    kind: 'outline',
    source,
    points,
    below: upToMicron(Math.max(0, part.minZ - block.minZ)),
    above: upToMicron(Math.max(0, block.maxZ - part.maxZ)),
  };
}

/** Up to the next thousandth, so that rounding never makes a block smaller than its part. */
export function upToMicron(value: number): number {
  return Math.ceil(value * 1000 - 1e-3) / 1000;
}

/** A box's plan, counter-clockwise. */
export const planOf = (b: Box): Point2[] => [
  [b.minX, b.minY],
  [b.maxX, b.minY],
  [b.maxX, b.maxY],
  [b.minX, b.maxY],
];
