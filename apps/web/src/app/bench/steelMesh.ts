import { BufferAttribute, BufferGeometry } from 'three';
import type { DrawnSteel } from '../engine/display';

type Rgb = readonly [number, number, number];

/** How a cell is coloured: by its height, whether it is still the block's raw top, and the lens's value. */
export type CellColour = (height: number, value: number | undefined) => Rgb;

/**
 * The steel as a sheet over the cells' middles with sides down to the floor. The sides get their own corners, so that the
 * block's edges stay sharp.
 */
export function steelGeometry(steel: DrawnSteel): BufferGeometry {
  const { nx, ny } = steel;
  const sheet = nx * ny;
  const rim = rimCells(nx, ny);
  const positions = new Float32Array((sheet + 2 * rim.length) * 3);
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++)
      place(positions, j * nx + i, steel, i, j, Math.max(steel.floor, steel.heights[j * nx + i]!));
  rim.forEach(([i, j], k) => {
    place(positions, sheet + k, steel, i, j, Math.max(steel.floor, steel.heights[j * nx + i]!));
    place(positions, sheet + rim.length + k, steel, i, j, steel.floor);
  });
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('color', new BufferAttribute(new Float32Array(positions.length), 3));
  geometry.setIndex(new BufferAttribute(indices(steel, sheet, rim.length), 1));
  geometry.computeVertexNormals();
  return geometry;
}

/** Colours the steel's sheet cell by cell, and its sides; its shape and normals stay as they are. */
export function colourSteel(
  geometry: BufferGeometry,
  { heights, field }: DrawnSteel,
  colour: CellColour,
  side: Rgb,
): void {
  const attribute = geometry.getAttribute('color') as BufferAttribute;
  const colours = attribute.array as Float32Array;
  for (let v = 0; v < heights.length; v++) colours.set(colour(heights[v]!, field?.[v]), 3 * v);
  for (let c = 3 * heights.length; c < colours.length; c += 3) colours.set(side, c);
  attribute.needsUpdate = true;
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
