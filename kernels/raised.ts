/**
 * Cells of a grid that stand above a height, and distances to them, for WebAssembly (AssemblyScript: every type is a machine
 * type). `geometry/raisedCells.ts` says what it means.
 */

const FAR: f32 = 1e20;
/** More cells than any grid has along a side. */
const NEVER: i32 = 1 << 24;
/** Cells along the side of a block: where no block near by holds a mark nothing is worked out. */
const BLOCK: i32 = 16;
/** Within so many cells distances along the rows are the least over all cells of a window: eight at a time that is faster. */
const WINDOW: i32 = 40;
/** More than the square of a distance within a window, and the same as nowhere. */
const NOWHERE: i32 = 65535;

/** Columns of the grid that distances are worked out on, flags of its blocks, and room for the parabolas of a row. */
let nx: i32 = 0;
let ny: i32 = 0;
let out: usize = 0;
let marked: usize = 0;
let near: usize = 0;
let away: usize = 0;
let bases: usize = 0;
let borders: usize = 0;
let apexes: usize = 0;

export function highestOf(values: usize, count: i32): f64 {
  let highest: f32 = -Infinity;
  for (let k = 0; k < count; k++) highest = max(highest, load<f32>(values + ((<usize>k) << 2)));
  return <f64>highest;
}

/** How many of the values are greater than `least`. */
export function countAbove(values: usize, count: i32, least: f64): i32 {
  let above = 0;
  for (let k = 0; k < count; k++) above += i32(<f64>load<f32>(values + ((<usize>k) << 2)) > least);
  return above;
}

/** Flags the cells above `least` in a grid that is wider than theirs by `beside` cells on all sides. */
export function mark(values: usize, columns: i32, rows: i32, least: f64, flags: usize, beside: i32): void {
  const across = columns + 2 * beside;
  memory.fill(flags, 0, <usize>(across * (rows + 2 * beside)));
  for (let j = 0; j < rows; j++) {
    const from = values + ((<usize>(j * columns)) << 2);
    const to = flags + <usize>((j + beside) * across + beside);
    for (let i = 0; i < columns; i++) store<u8>(to + <usize>i, u8(<f64>load<f32>(from + ((<usize>i) << 2)) > least));
  }
}

/** Bytes of room that `distances` needs for a grid beside flags and distances. */
export function roomFor(columns: i32, rows: i32): i32 {
  const blocks = ((columns + BLOCK - 1) / BLOCK) * ((rows + BLOCK - 1) / BLOCK);
  const wide = (columns + 15) & ~15;
  return max(3 * (blocks + 16) + 4 * BLOCK + 20 * columns + 32, wide * (rows + 2) + 2 * (wide + 2 * WINDOW + 16));
}

/**
 * Squared distance, in cells, from each cell of a grid to the nearest flagged one; huge where none is within `farthest`. Along
 * the columns by counting, then along the rows by lower envelopes of parabolas, or through windows.
 */
export function distances(flags: usize, columns: i32, rows: i32, farthest: i32, to: usize, room: usize): void {
  nx = columns;
  ny = rows;
  marked = flags;
  out = to;
  if (farthest <= WINDOW) {
    throughWindows(farthest, room);
    return;
  }
  const across = (nx + BLOCK - 1) / BLOCK;
  const down = (ny + BLOCK - 1) / BLOCK;
  const blocks = (<usize>(across * down) + 15) & ~15;
  near = room;
  findNear(across, down, room + blocks, room + 2 * blocks, min(max(across, down), (farthest + BLOCK - 1) / BLOCK));
  away = room + 3 * blocks;
  bases = away + 4 * BLOCK;
  borders = bases + ((<usize>nx) << 3);
  apexes = borders + ((<usize>nx) << 3);
  for (let o: usize = 0, end = (<usize>(nx * ny)) << 2; o < end; o += 4) store<f32>(out + o, FAR);
  for (let c = 0; c < across; c++)
    for (let r = 0; r < down; r++) {
      if (load<u8>(near + <usize>(r * across + c)) == 0) continue;
      const from = r;
      while (r < down && load<u8>(near + <usize>(r * across + c)) != 0) r++;
      countAlongColumns(c * BLOCK, min(nx, (c + 1) * BLOCK), from * BLOCK, min(ny, r * BLOCK), farthest);
    }
  for (let r = 0; r < down; r++)
    for (let c = 0; c < across; c++) {
      if (load<u8>(near + <usize>(r * across + c)) == 0) continue;
      const from = c;
      while (c < across && load<u8>(near + <usize>(r * across + c)) != 0) c++;
      const width = min(nx, c * BLOCK) - from * BLOCK;
      const end = min(ny, (r + 1) * BLOCK);
      for (let j = r * BLOCK; j < end; j++) lower(out + ((<usize>(j * nx + from * BLOCK)) << 2), width);
    }
}

/** The same within a window's reach, sixteen columns and then eight cells of a row at a time. */
function throughWindows(farthest: i32, room: usize): void {
  const wide = <usize>((nx + 15) & ~15);
  const one = i8x16.splat(1);
  const never = i8x16.splat(<i8>(farthest + 1));
  const zero = i8x16.splat(0);
  // steps to the next mark up the column, then to the nearer one
  const steps = room + wide;
  memory.fill(room, <u8>(farthest + 1), wide);
  for (let j = 0; j < ny; j++) {
    const flags = marked + <usize>(j * nx);
    const row = steps + <usize>j * wide;
    for (let i: usize = 0; i < wide; i += 16) {
      const away = i8x16.min_u(i8x16.add(v128.load(row + i - wide), one), never);
      v128.store(row + i, v128.and(away, i8x16.eq(v128.load(flags + i), zero)));
    }
  }
  const squares = (steps + wide * <usize>(ny + 1) + 15) & ~15;
  const firstSquare = squares + ((<usize>farthest) << 1);
  const end = firstSquare + ((wide + <usize>farthest) << 1);
  for (let j = ny - 1; j >= 0; j--) {
    const row = steps + <usize>j * wide;
    let any = zero;
    for (let i: usize = 0; i < wide; i += 16) {
      let away = v128.load(row + i);
      if (j + 1 < ny) {
        away = i8x16.min_u(away, i8x16.add(v128.load(row + i + wide), one));
        v128.store(row + i, away);
      }
      const isNear = i8x16.lt_u(away, never);
      any = v128.or(any, isNear);
      // sixteen bits hold the square, all of them set where there is none
      const far = v128.not(isNear);
      const at = firstSquare + (i << 1);
      v128.store(at, v128.or(i16x8.extmul_low_i8x16_u(away, away), i16x8.extend_low_i8x16_s(far)));
      v128.store(at, v128.or(i16x8.extmul_high_i8x16_u(away, away), i16x8.extend_high_i8x16_s(far)), 16);
    }
    const to = out + ((<usize>(j * nx)) << 2);
    if (!v128.any_true(any)) {
      for (let i: usize = 0; i < <usize>nx; i++) store<f32>(to + (i << 2), FAR);
      continue;
    }
    memory.fill(squares, 255, firstSquare - squares);
    const beyond = firstSquare + ((<usize>nx) << 1);
    memory.fill(beyond, 255, end - beyond);
    leastOfWindows(firstSquare, farthest, to);
  }
}

/** For each cell of a row the least sum of a square in the window around it and that of the way there. */
function leastOfWindows(squares: usize, farthest: i32, to: usize): void {
  const far4 = f32x4.splat(FAR);
  const nowhere4 = i32x4.splat(NOWHERE);
  for (let i = 0; i < nx; i += 8) {
    const at = squares + ((<usize>i) << 1);
    let least = v128.load(at);
    // on a mark it is 0, whatever lies around
    if (v128.any_true(least)) {
      for (let k = 1; k <= farthest; k++) {
        const way = i16x8.splat(<i16>(k * k));
        const aside = (<usize>k) << 1;
        const beside = i16x8.min_u(v128.load(at - aside), v128.load(at + aside));
        least = i16x8.min_u(least, i16x8.add_sat_u(beside, way));
      }
    }
    for (let half = 0; half < 2; half++) {
      const four = half == 0 ? i32x4.extend_low_i16x8_u(least) : i32x4.extend_high_i16x8_u(least);
      const values = v128.bitselect(far4, f32x4.convert_i32x4_u(four), i32x4.eq(four, nowhere4));
      const first = i + 4 * half;
      const place = to + ((<usize>first) << 2);
      if (first + 4 <= nx) v128.store(place, values);
      else {
        if (first < nx) store<f32>(place, f32x4.extract_lane(values, 0));
        if (first + 1 < nx) store<f32>(place, f32x4.extract_lane(values, 1), 4);
        if (first + 2 < nx) store<f32>(place, f32x4.extract_lane(values, 2), 8);
      }
    }
  }
}

/** Flags the blocks that are at most `by` blocks away, across or down, from one that holds a mark. */
function findNear(across: i32, down: i32, own: usize, wide: usize, by: i32): void {
  const count = <usize>(across * down);
  memory.fill(near, 0, count);
  memory.fill(own, 0, count);
  memory.fill(wide, 0, count);
  for (let j = 0; j < ny; j++) {
    const row = own + <usize>((j / BLOCK) * across);
    const flags = marked + <usize>(j * nx);
    for (let i = 0; i < nx; i++)
      if (load<u8>(flags + <usize>i) != 0) {
        store<u8>(row + <usize>(i / BLOCK), 1);
        // on behind the block
        i |= BLOCK - 1;
      }
  }
  for (let r = 0; r < down; r++)
    for (let c = 0; c < across; c++) {
      if (load<u8>(own + <usize>(r * across + c)) == 0) continue;
      const from = max(0, c - by);
      memory.fill(wide + <usize>(r * across + from), 1, <usize>(min(across - 1, c + by) - from + 1));
    }
  for (let r = 0; r < down; r++) {
    const last = min(down - 1, r + by);
    for (let n = max(0, r - by); n <= last; n++)
      for (let c = 0; c < across; c++) {
        const at = near + <usize>(r * across + c);
        store<u8>(at, load<u8>(at) | load<u8>(wide + <usize>(n * across + c)));
      }
  }
}

/** Squared distance to the nearest mark of the same column, row by row down and up again; huge beyond `farthest`. */
function countAlongColumns(i0: i32, i1: i32, j0: i32, j1: i32, farthest: i32): void {
  restart();
  for (let j = j0; j < j1; j++) countRow(i0, i1, j, farthest);
  restart();
  for (let j = j1 - 1; j >= j0; j--) countRow(i0, i1, j, farthest);
}

function restart(): void {
  for (let k = 0; k < BLOCK; k++) store<i32>(away + ((<usize>k) << 2), NEVER);
}

function countRow(i0: i32, i1: i32, j: i32, farthest: i32): void {
  for (let i = i0; i < i1; i++) {
    const o = <usize>(j * nx + i);
    const counter = away + ((<usize>(i - i0)) << 2);
    const d = load<u8>(marked + o) != 0 ? 0 : load<i32>(counter) + 1;
    store<i32>(counter, d);
    if (d > farthest) continue;
    const at = out + (o << 2);
    const d2 = <f32>d * <f32>d;
    if (d2 < load<f32>(at)) store<f32>(at, d2);
  }
}

/** Lowers n values to the envelope of the parabolas that stand on them: none reaches across a 0. */
function lower(values: usize, n: i32): void {
  for (let from = 0; from < n; from++) {
    if (load<f32>(values + ((<usize>from) << 2)) == 0) continue;
    let to = from;
    while (to < n && load<f32>(values + ((<usize>to) << 2)) != 0) to++;
    const first = max(0, from - 1);
    stretch(values + ((<usize>first) << 2), min(n, to + 1) - first);
    from = to;
  }
}

function stretch(values: usize, n: i32): void {
  let k = -1;
  for (let q = 0; q < n; q++) {
    const value = load<f32>(values + ((<usize>q) << 2));
    if (value >= FAR) continue;
    const f = <f64>value;
    let from: f64 = -Infinity;
    while (k >= 0) {
      const p = load<i32>(apexes + ((<usize>k) << 2));
      const base = load<f64>(bases + ((<usize>k) << 3));
      from = (f + <f64>q * q - base - <f64>p * p) / (2 * <f64>(q - p));
      if (from > load<f64>(borders + ((<usize>k) << 3))) break;
      k--;
    }
    k++;
    store<i32>(apexes + ((<usize>k) << 2), q);
    store<f64>(bases + ((<usize>k) << 3), f);
    store<f64>(borders + ((<usize>k) << 3), k == 0 ? -Infinity : from);
  }
  if (k < 0) return;
  let e = 0;
  for (let q = 0; q < n; q++) {
    while (e < k && load<f64>(borders + ((<usize>(e + 1)) << 3)) < <f64>q) e++;
    const d = <f64>(q - load<i32>(apexes + ((<usize>e) << 2)));
    store<f32>(values + ((<usize>q) << 2), <f32>(d * d + load<f64>(bases + ((<usize>e) << 3))));
  }
}
