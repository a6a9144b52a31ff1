import type { Box } from './box';
import type { TriangleMesh } from './mesh';

/** Triangles longer (X and Y together) than this share of the part are long. */
const LONG_SHARE = 1 / 8;
/** Side of the Hilbert curve's square: order 15, so that a key with its class takes 31 bits. */
const HILBERT_SIDE = 32768;

/**
 * Triangles in the order of their centres along a Hilbert curve; behind all others those that look down, since in a
 * well-oriented solid they are never touched from above, and those so long that they would spoil the boxes of their neighbours.
 */
export function sweepOrder(mesh: TriangleMesh, box: Box): Uint32Array {
  const { positions, indices } = mesh;
  const count = indices.length / 3;
  const extent = Math.max(box.maxX - box.minX, box.maxY - box.minY, 1e-9);
  const scale = (HILBERT_SIDE - 1) / extent;
  const long = LONG_SHARE * extent;
  const keys = new Uint32Array(count);
  for (let t = 0; t < count; t++) {
    const a = 3 * indices[3 * t]!;
    const b = 3 * indices[3 * t + 1]!;
    const c = 3 * indices[3 * t + 2]!;
    const [ax, bx, cx] = [positions[a]!, positions[b]!, positions[c]!];
    const [ay, by, cy] = [positions[a + 1]!, positions[b + 1]!, positions[c + 1]!];
    const isDown = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay) < 0;
    const isLong = Math.max(ax, bx, cx) - Math.min(ax, bx, cx) + Math.max(ay, by, cy) - Math.min(ay, by, cy) > long;
    const place = hilbert((((ax + bx + cx) / 3 - box.minX) * scale) | 0, (((ay + by + cy) / 3 - box.minY) * scale) | 0);
    keys[t] = (isDown || isLong ? HILBERT_SIDE * HILBERT_SIDE : 0) + place;
  }
  return sortedByKey(keys);
}

/** Numbers of the keys in ascending order of key, equal ones in their order: radix sort. */
function sortedByKey(keys: Uint32Array): Uint32Array {
  let from = new Uint32Array(keys.length);
  for (let i = 0; i < from.length; i++) from[i] = i;
  let to = new Uint32Array(keys.length);
  for (let shift = 0; shift < 32; shift += 11) {
    const starts = new Uint32Array(2049);
    for (let i = 0; i < keys.length; i++) {
      const digit = ((keys[i]! >>> shift) & 2047) + 1;
      starts[digit] = starts[digit]! + 1;
    }
    for (let d = 0; d < 2048; d++) starts[d + 1] = starts[d + 1]! + starts[d]!;
    for (let k = 0; k < from.length; k++) {
      const i = from[k]!;
      const digit = (keys[i]! >>> shift) & 2047;
      const at = starts[digit]!;
      to[at] = i;
      starts[digit] = at + 1;
    }
    [from, to] = [to, from];
  }
  return from;
}

/** Place of (x, y), each 0 to HILBERT_SIDE - 1, along the Hilbert curve. */
function hilbert(x: number, y: number): number {
  let d = 0;
  for (let s = HILBERT_SIDE >> 1; s > 0; s >>= 1) {
    const rx = (x & s) > 0 ? 1 : 0;
    const ry = (y & s) > 0 ? 1 : 0;
    d += s * s * ((3 * rx) ^ ry);
    if (ry === 0) {
      if (rx === 1) {
        x = HILBERT_SIDE - 1 - x;
        y = HILBERT_SIDE - 1 - y;
      }
      const k = x;
      x = y;
      y = k;
    }
  }
  return d;
}
