/**
 * How far steel stands inside a stack of convex pieces, shank or holder, for WebAssembly (AssemblyScript: every type is a machine
 * type). `stock/steelContact.ts` says what it means. Four cells at a time are judged in single precision with room for its
 * rounding; those that may count are reckoned in double precision.
 */
import { cell, firstTileRow, heights, nx, refresh, stales, TILE, tilesX, tops, x0, y0 } from './steel';

/** Bytes of a piece: its height, radius of its disc, its radius, its corner or slope, 1 for a cone, and a table's place (f64 each). */
export const PIECE: usize = 48;
const CONE: f64 = 1;
/** What single precision may take from a height above the stack, mm, and from a distance and its square, as a share of it. */
const SLACK: f64 = 1e-3;
const ON_RIM: f64 = 1 + 1e-6;
const WITHIN: f64 = 1 - 1e-6;

/**
 * The largest height (mm) of steel above the underside of a stack with its tip at (x, y, z), among tiles with columns `t0` to
 * `t1` and rows `r0` to `r1`; `known` when it is nowhere more.
 *
 * @param stack where its pieces lie in the memory, lowest first, widening upward
 */
export function excess(
  stack: usize,
  pieces: i32,
  x: f64,
  y: f64,
  z: f64,
  known: f64,
  t0: i32,
  t1: i32,
  r0: i32,
  r1: i32,
  firstRow: i32,
  endRow: i32,
): f64 {
  const side = TILE * cell;
  let most = known;
  for (let tj = r0; tj <= r1; tj++)
    for (let ti = t0; ti <= t1; ti++) {
      const t = (tj - firstTileRow) * tilesX + ti;
      const top = tops + ((<usize>t) << 2);
      if (<f64>load<f32>(top) - z <= most) continue;
      const dx = outside(x0 + ti * side - x, side);
      const dy = outside(y0 + tj * side - y, side);
      const under = z + most + lowestFrom(stack, pieces, Math.sqrt(dx * dx + dy * dy));
      if (<f64>load<f32>(top) <= under) continue;
      if (load<u8>(stales + <usize>t) > 0) refresh(t);
      if (<f64>load<f32>(top) <= under) continue;
      most = inTile(
        stack,
        pieces,
        x,
        y,
        z,
        most,
        under,
        ti * TILE,
        max(firstRow, tj * TILE),
        min(endRow, tj * TILE + TILE),
      );
    }
  return most;
}

function inTile(
  stack: usize,
  pieces: i32,
  x: f64,
  y: f64,
  z: f64,
  known: f64,
  under: f64,
  column: i32,
  j0: i32,
  j1: i32,
): f64 {
  const widest = load<f64>(stack + <usize>(pieces - 1) * PIECE, 16);
  const rim2 = f32x4.splat(<f32>(widest * widest * ON_RIM));
  const under4 = f32x4.splat(<f32>(under - SLACK));
  const z4 = f32x4.splat(<f32>z);
  const lanes = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(<f32>cell));
  const isLast = column + TILE > nx;
  let most = known;
  for (let j = j0; j < j1; j++) {
    const dy = y0 + (j + 0.5) * cell - y;
    const dy2 = f32x4.splat(<f32>(dy * dy));
    const row = heights + ((<usize>(j * nx + column)) << 2);
    for (let g = 0; g < TILE; g += 4) {
      const at = row + ((<usize>g) << 2);
      const h = v128.load(at);
      let on = f32x4.gt(h, under4);
      if (isLast) on = v128.and(on, i32x4.lt_s(i32x4(0, 1, 2, 3), i32x4.splat(nx - column - g)));
      if (!v128.any_true(on)) continue;
      const left = x0 + (column + g + 0.5) * cell - x;
      const dx = f32x4.add(f32x4.splat(<f32>left), lanes);
      const d2 = f32x4.add(f32x4.mul(dx, dx), dy2);
      on = v128.and(on, f32x4.le(d2, rim2));
      if (!v128.any_true(on)) continue;
      const beat = f32x4.splat(<f32>(most - SLACK));
      on = v128.and(on, f32x4.gt(f32x4.sub(f32x4.sub(h, z4), underside(stack, pieces, f32x4.sqrt(d2))), beat));
      let left4 = i32x4.bitmask(on);
      while (left4 != 0) {
        const k = ctz(left4);
        left4 &= left4 - 1;
        const ex = left + k * cell;
        const height = <f64>load<f32>(at + ((<usize>k) << 2)) - z;
        const over = height - heightFrom(stack, pieces, Math.sqrt(ex * ex + dy * dy));
        if (over > most) most = over;
      }
    }
  }
  return most;
}

/** Lowest height of the stack at four distances from its axis, lower rather than higher where single precision rounds. */
function underside(stack: usize, pieces: i32, d: v128): v128 {
  let lowest = f32x4.splat(Infinity);
  const zero4 = f32x4.splat(0);
  const near = f32x4.mul(d, f32x4.splat(<f32>WITHIN));
  for (let p = 0; p < pieces; p++) {
    const piece = stack + <usize>p * PIECE;
    const bend = load<f64>(piece, 24);
    let height = f32x4.splat(<f32>load<f64>(piece));
    if (bend > 0) {
      const bend4 = f32x4.splat(<f32>bend);
      const e = f32x4.pmax(zero4, f32x4.sub(near, f32x4.splat(<f32>load<f64>(piece, 8))));
      if (load<f64>(piece, 32) == CONE) height = f32x4.add(height, f32x4.mul(bend4, e));
      else {
        const w2 = f32x4.pmax(zero4, f32x4.sub(f32x4.mul(bend4, bend4), f32x4.mul(e, e)));
        height = f32x4.add(height, f32x4.sub(bend4, f32x4.sqrt(w2)));
      }
    }
    const isUnder = f32x4.le(d, f32x4.splat(<f32>(load<f64>(piece, 16) * ON_RIM)));
    lowest = v128.bitselect(f32x4.pmin(lowest, height), lowest, isUnder);
  }
  return lowest;
}

/** Lowest height of the stack right above a distance from its axis; Infinity outside it. */
function heightFrom(stack: usize, pieces: i32, d: f64): f64 {
  let lowest: f64 = Infinity;
  for (let p = 0; p < pieces; p++) {
    const piece = stack + <usize>p * PIECE;
    if (d <= load<f64>(piece, 16)) lowest = Math.min(lowest, heightAt(piece, d));
  }
  return lowest;
}

/**
 * How deep steel of a height above the tip stands inside the stack at a distance from its axis, mm: the way out of it, upward
 * or sideways, whichever is shorter.
 */
function depthOf(stack: usize, pieces: i32, d: f64, height: f64): f64 {
  const over = height - heightFrom(stack, pieces, d);
  if (over <= 0) return 0;
  let widest: f64 = 0;
  for (let p = 0; p < pieces; p++) widest = Math.max(widest, radiusAt(stack + <usize>p * PIECE, height));
  return Math.min(over, widest - d);
}

/** Radius of a piece, as far up as a height above the tip; 0 below it. */
function radiusAt(piece: usize, height: f64): f64 {
  const up = height - load<f64>(piece);
  if (up < 0) return 0;
  const radius = load<f64>(piece, 16);
  const bend = load<f64>(piece, 24);
  if (bend == 0) return radius;
  const flat = load<f64>(piece, 8);
  if (load<f64>(piece, 32) == CONE) return Math.min(radius, flat + up / bend);
  const left = Math.max(0, bend - up);
  return flat + Math.sqrt(Math.max(0, bend * bend - left * left));
}

/** How deep the steel stands inside a stack with its tip at (x, y, z) at most, mm; 0 where it does not touch it. */
export function deepest(stack: usize, pieces: i32, x: f64, y: f64, z: f64, firstRow: i32, endRow: i32): f64 {
  const widest = load<f64>(stack + <usize>(pieces - 1) * PIECE, 16);
  const i0 = max(0, <i32>Math.floor((x - widest - x0) / cell - 0.5));
  const i1 = min(nx - 1, <i32>Math.ceil((x + widest - x0) / cell - 0.5));
  const j0 = max(firstRow, <i32>Math.floor((y - widest - y0) / cell - 0.5));
  const j1 = min(endRow - 1, <i32>Math.ceil((y + widest - y0) / cell - 0.5));
  let most: f64 = 0;
  for (let j = j0; j <= j1; j++)
    for (let i = i0; i <= i1; i++) {
      const dx = x0 + (i + 0.5) * cell - x;
      const dy = y0 + (j + 0.5) * cell - y;
      const height = <f64>load<f32>(heights + ((<usize>(j * nx + i)) << 2)) - z;
      most = Math.max(most, depthOf(stack, pieces, Math.sqrt(dx * dx + dy * dy), height));
    }
  return most;
}

/** Lowest height of the stack at a distance from its axis or beyond: pieces stand lowest first. */
export function lowestFrom(stack: usize, pieces: i32, d: f64): f64 {
  for (let p = 0; p < pieces; p++) {
    const piece = stack + <usize>p * PIECE;
    if (d <= load<f64>(piece, 16)) return heightAt(piece, d);
  }
  return Infinity;
}

function heightAt(piece: usize, d: f64): f64 {
  const z = load<f64>(piece);
  const e = d - load<f64>(piece, 8);
  if (e <= 0) return z;
  const bend = load<f64>(piece, 24);
  if (load<f64>(piece, 32) == CONE) return z + bend * e;
  return z + bend - Math.sqrt(Math.max(0, bend * bend - e * e));
}

/** How far the origin lies outside an interval that begins at `low`. */
export function outside(low: f64, length: f64): f64 {
  return low > 0 ? low : low + length < 0 ? low + length : 0;
}
