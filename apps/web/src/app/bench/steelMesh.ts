import { BufferAttribute, BufferGeometry } from 'three';
import type { DrawnSteel } from '../engine/display';
import type { Rgb } from './palette';

/** How a cell is coloured: by its height, and the lens's value. */
export type CellColour = (height: number, value: number | undefined) => Rgb;

/** A byte with a sign holds this for 1. */
const WHOLE = 127;
/** How dark the block's sides are at the ground, against their upper edge. */
const SIDE_FOOT = 0.62;

/**
 * The steel as a sheet over the cells' middles with sides down to the floor. The sides get their own corners, so that the
 * block's edges stay sharp.
 */
export function steelGeometry(steel: DrawnSteel): BufferGeometry {
  const { nx, ny } = steel;
  const sheet = nx * ny;
  const rim = rimCells(nx, ny);
  const corners = sheet + 2 * rim.length;
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(3 * corners), 3));
  geometry.setAttribute('shade', new BufferAttribute(new Int8Array(4 * corners), 4, true));
  geometry.setAttribute('color', new BufferAttribute(new Uint8Array(4 * corners), 4, true));
  geometry.setIndex(new BufferAttribute(new Uint32Array(6 * ((nx - 1) * (ny - 1) + rim.length)), 1));
  const shade = geometry.getAttribute('shade').array;
  rim.forEach(({ x, y }, k) => {
    shade.set([WHOLE * x, WHOLE * y, 0, WHOLE], 4 * (sheet + k));
    shade.set([WHOLE * x, WHOLE * y, 0, WHOLE * SIDE_FOOT], 4 * (sheet + rim.length + k));
  });
  reshapeSteel(geometry, steel);
  return geometry;
}

/** Whether a geometry was made for the same grid, so that it can be given another state of the steel. */
export function fits(a: DrawnSteel | undefined, b: DrawnSteel): boolean {
  return (
    !!a && a.nx === b.nx && a.ny === b.ny && a.cell === b.cell && a.x0 === b.x0 && a.y0 === b.y0 && a.floor === b.floor
  );
}

/** Gives a geometry another state of the steel on the same grid. */
export function reshapeSteel(geometry: BufferGeometry, steel: DrawnSteel): void {
  const { nx, ny, heights, floor } = steel;
  const sheet = nx * ny;
  const rim = rimCells(nx, ny);
  const position = geometry.getAttribute('position') as BufferAttribute;
  const shade = geometry.getAttribute('shade') as BufferAttribute;
  const p = new Float32Array(position.array.length);
  for (let j = 0, v = 0; j < ny; j++) {
    const y = placeOf(steel.y0, steel.cell, j, ny);
    for (let i = 0; i < nx; i++, v++) {
      p[3 * v] = placeOf(steel.x0, steel.cell, i, nx);
      p[3 * v + 1] = y;
      p[3 * v + 2] = Math.max(floor, heights[v]!);
    }
  }
  rim.forEach(({ i, j }, k) => {
    const from = 3 * (j * nx + i);
    const upper = 3 * (sheet + k);
    const lower = upper + 3 * rim.length;
    for (let c = 0; c < 3; c++) p[upper + c] = p[lower + c] = p[from + c]!;
    p[lower + 2] = floor;
  });
  put(position, p.subarray(0, 3 * sheet));
  put(position, p.subarray(3 * sheet), 3 * sheet);
  put(shade, steel.shade);
  const indices = new Uint32Array(geometry.getIndex()!.array.length);
  indices.set(steel.indices);
  let n = steel.indices.length;
  for (let k = 0; k + 1 < rim.length; k++) {
    // corners of the block stand twice in the rim, once for each of their sides
    if (rim[k]!.x !== rim[k + 1]!.x || rim[k]!.y !== rim[k + 1]!.y) continue;
    const a = sheet + k;
    const b = a + rim.length;
    for (const v of [a, b, b + 1, a, b + 1, a + 1]) indices[n++] = v;
  }
  geometry.setDrawRange(0, n);
  put(geometry.getIndex()!, indices.subarray(0, n));
}

/**
 * Gives numbers of an attribute, from one of them on, other values of the same kind; only those that changed go to the
 * graphics again. They are compared four bytes at a time, whatever they stand for.
 */
function put(attribute: BufferAttribute, values: Float32Array | Int8Array | Uint8Array | Uint32Array, at = 0): void {
  const array = attribute.array as typeof values;
  const size = array.BYTES_PER_ELEMENT;
  const perWord = 4 / size;
  const now = new Uint32Array(array.buffer, array.byteOffset + size * at, values.length / perWord);
  const next = new Uint32Array(values.buffer, values.byteOffset, values.length / perWord);
  let first = 0;
  while (first < next.length && now[first] === next[first]) first++;
  if (first === next.length) return;
  let last = next.length - 1;
  while (now[last] === next[last]) last--;
  now.set(next.subarray(first, last + 1), first);
  attribute.addUpdateRange(at + perWord * first, perWord * (last + 1 - first));
  attribute.needsUpdate = true;
}

/** Colours the steel's sheet cell by cell, and its sides; its shape and light stay as they are. */
export function colourSteel(
  geometry: BufferGeometry,
  { heights, field }: DrawnSteel,
  colour: CellColour,
  side: Rgb,
): void {
  const attribute = geometry.getAttribute('color') as BufferAttribute;
  const colours = new Uint8Array(attribute.array.length);
  const paint = (v: number, [r, g, b]: Rgb): void => {
    colours[4 * v] = 255 * r;
    colours[4 * v + 1] = 255 * g;
    colours[4 * v + 2] = 255 * b;
    colours[4 * v + 3] = 255;
  };
  for (let v = 0; v < heights.length; v++) paint(v, colour(heights[v]!, field?.[v]));
  for (let v = heights.length; 4 * v < colours.length; v++) paint(v, side);
  put(attribute, colours);
}

/** The outermost middles are drawn at the block's border, so that the block has its true size. */
function placeOf(from: number, cell: number, k: number, count: number): number {
  return from + (k === 0 ? 0 : k === count - 1 ? count : k + 0.5) * cell;
}

/** A cell at the border, and the direction that its side looks. */
interface RimCell {
  readonly i: number;
  readonly j: number;
  readonly x: number;
  readonly y: number;
}

function rimCells(nx: number, ny: number): RimCell[] {
  const rim: RimCell[] = [];
  for (let i = 0; i < nx; i++) rim.push({ i, j: 0, x: 0, y: -1 });
  for (let j = 0; j < ny; j++) rim.push({ i: nx - 1, j, x: 1, y: 0 });
  for (let i = nx - 1; i >= 0; i--) rim.push({ i, j: ny - 1, x: 0, y: 1 });
  for (let j = ny - 1; j >= 0; j--) rim.push({ i: 0, j, x: -1, y: 0 });
  return rim;
}
