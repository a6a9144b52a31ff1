/** An axis-parallel box, millimetres. Empty when `minX > maxX`. */
export interface Box {
  minX: number;
  minY: number;
  minZ: number;
  maxX: number;
  maxY: number;
  maxZ: number;
}

export function emptyBox(): Box {
  return {
    minX: Infinity,
    minY: Infinity,
    minZ: Infinity,
    maxX: -Infinity,
    maxY: -Infinity,
    maxZ: -Infinity,
  };
}

/** The smallest box around `positions` (x, y, z one after another). */
export function boxOfPositions(positions: ArrayLike<number>): Box {
  const box = emptyBox();
  for (let i = 0; i + 2 < positions.length; i += 3) {
    const x = positions[i]!;
    const y = positions[i + 1]!;
    const z = positions[i + 2]!;
    if (x < box.minX) box.minX = x;
    if (x > box.maxX) box.maxX = x;
    if (y < box.minY) box.minY = y;
    if (y > box.maxY) box.maxY = y;
    if (z < box.minZ) box.minZ = z;
    if (z > box.maxZ) box.maxZ = z;
  }
  return box;
}

export function sizeOf(box: Box): [number, number, number] {
  return [box.maxX - box.minX, box.maxY - box.minY, box.maxZ - box.minZ];
}

export function translateBox(box: Box, dx: number, dy: number, dz: number): Box {
  return {
    minX: box.minX + dx,
    minY: box.minY + dy,
    minZ: box.minZ + dz,
    maxX: box.maxX + dx,
    maxY: box.maxY + dy,
    maxZ: box.maxZ + dz,
  };
}

/** The 27 box points: each of X, Y, Z at its low end, middle or high end. */
export const BOX_LEVELS = ['low', 'middle', 'high'] as const;
export type BoxLevel = (typeof BOX_LEVELS)[number];

export interface BoxPoint {
  x: BoxLevel;
  y: BoxLevel;
  z: BoxLevel;
}

function between(low: number, high: number, level: BoxLevel): number {
  if (level === 'low') return low;
  return level === 'high' ? high : (low + high) / 2;
}

/** Coordinates of one of the 27 box points. */
export function boxPoint(box: Box, at: BoxPoint): [number, number, number] {
  return [between(box.minX, box.maxX, at.x), between(box.minY, box.maxY, at.y), between(box.minZ, box.maxZ, at.z)];
}
