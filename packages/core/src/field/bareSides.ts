import type { Box } from '../geometry/box';

/** Sides of part and blank this near to one another are one, mm. */
const SAME_MM = 1e-3;

/** A rectangle in plan on whose sides, and beyond them, there is nothing to be cut, mm. */
export type BareSides = Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>;

/** The sides in which the part ends together with its blank; infinitely far where the blank goes on. */
export function bareSides(part: Box, blank: Box): BareSides {
  return {
    minX: blank.minX > part.minX - SAME_MM ? part.minX + SAME_MM : -Infinity,
    minY: blank.minY > part.minY - SAME_MM ? part.minY + SAME_MM : -Infinity,
    maxX: blank.maxX < part.maxX + SAME_MM ? part.maxX - SAME_MM : Infinity,
    maxY: blank.maxY < part.maxY + SAME_MM ? part.maxY - SAME_MM : Infinity,
  };
}

/** Whether a place lies on or beyond one of them. */
export function isBare({ minX, minY, maxX, maxY }: BareSides, x: number, y: number): boolean {
  return x < minX || x > maxX || y < minY || y > maxY;
}
