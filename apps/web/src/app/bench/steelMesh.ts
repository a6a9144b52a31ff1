import { BufferAttribute, BufferGeometry } from 'three';
import type { DrawnSteel } from '../engine/display';

type Rgb = readonly [number, number, number];

/** How a cell is coloured: by its height, whether it is still the block's raw top, and the lens's value. */
export type CellColour = (height: number, value: number | undefined) => Rgb;

/**
 * The steel as a sheet over the cells' middles with sides down to the floor. The sides get their own corners, so that the
 * block's edges stay sharp.
 */
export function steelGeometry(steel: DrawnSteel, colour: CellColour, side: Rgb): BufferGeometry {
  const { nx, ny } = steel;
  const sheet = nx * ny;
  const rim = rimCells(nx, ny);
  const total = sheet + 2 * rim.length;
  const positions = new Float32Array(total * 3);
  const colours = new Float32Array(total * 3);
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const v = j * nx + i;
      place(positions, v, steel, i, j, Math.max(steel.floor, steel.heights[v]!));
      colours.set(colour(steel.heights[v]!, steel.field?.[v]), 3 * v);
    }
  rim.forEach(([i, j], k) => {
    place(positions, sheet + k, steel, i, j, Math.max(steel.floor, steel.heights[j * nx + i]!));
    place(positions, sheet + rim.length + k, steel, i, j, steel.floor);
    colours.set(side, 3 * (sheet + k));
    colours.set(side, 3 * (sheet + rim.length + k));
  });
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('color', new BufferAttribute(colours, 3));
  geometry.setIndex(new BufferAttribute(indices(steel, sheet, rim.length), 1));
  geometry.computeVertexNormals();
  return geometry;
}

/** The outermost middles are drawn at the block's border, so that the block has its true size. */
function place(positions: Float32Array, v: number, s: DrawnSteel, i: number, j: number, z: number): void {
  positions[3 * v] = s.x0 + (i === 0 ? 0 : i === s.nx - 1 ? s.nx : i + 0.5) * s.cell;
  positions[3 * v + 1] = s.y0 + (j === 0 ? 0 : j === s.ny - 1 ? s.ny : j + 0.5) * s.cell;
  positions[3 * v + 2] = z;
}

function rimCells(nx: number, ny: number): [number, number][] {
  const rim: [number, number][] = [];
  for (let i = 0; i < nx; i++) rim.push([i, 0]);
  for (let j = 0; j < ny; j++) rim.push([nx - 1, j]);
  for (let i = nx - 1; i >= 0; i--) rim.push([i, ny - 1]);
  for (let j = ny - 1; j >= 0; j--) rim.push([0, j]);
  return rim;
}

function indices(s: DrawnSteel, sheet: number, rim: number): Uint32Array {
  const out = new Uint32Array(6 * ((s.nx - 1) * (s.ny - 1) + rim));
  let n = 0;
  const triangle = (a: number, b: number, c: number): void => {
    out[n++] = a;
    out[n++] = b;
    out[n++] = c;
  };
  const { heights: h, floor } = s;
  for (let j = 0; j + 1 < s.ny; j++)
    for (let i = 0; i + 1 < s.nx; i++) {
      const a = j * s.nx + i;
      const b = a + 1;
      const c = a + s.nx;
      const d = c + 1;
      if (h[a]! <= floor && h[b]! <= floor && h[c]! <= floor && h[d]! <= floor) continue;
      // the diagonal that bends less keeps ridges and walls straight
      if (Math.abs(h[a]! - h[d]!) <= Math.abs(h[b]! - h[c]!)) {
        triangle(a, b, d);
        triangle(a, d, c);
      } else {
        triangle(a, b, c);
        triangle(b, d, c);
      }
    }
  for (let k = 0; k < rim; k++) {
    const next = (k + 1) % rim;
    triangle(sheet + k, sheet + rim + k, sheet + rim + next);
    triangle(sheet + k, sheet + rim + next, sheet + next);
  }
  return out.subarray(0, n);
}
