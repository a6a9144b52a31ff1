/**
 * The highest contact of one convex profile piece with a mesh, for WebAssembly (AssemblyScript: every type is a machine type).
 * `cutter/drop.ts` says what it means.
 */
import {
  along,
  begin,
  best,
  CONE,
  corner,
  edge,
  flat,
  kind,
  leaf,
  offerCorners,
  px,
  py,
  radius,
  slope,
  triangle,
} from './contact';
import {
  A,
  B,
  BLOCK,
  blocks,
  BOTTOM,
  BOUND,
  BOX_SLACK,
  C,
  extent,
  FAN,
  FOUND,
  FOUND_TRIANGLE,
  LEAF,
  LEAN,
  levelCount,
  levels,
  MAX_X,
  MAX_Y,
  MIN_X,
  MIN_Y,
  NZ,
  PROMISE,
  SECANT,
  STACK,
  TOP,
} from './mesh';
import { blockIn, blocksIn, levelIn, nearTo, nodeIn } from './near';

/** What single precision may take from a roof's height, mm. */
const ROOF_SLACK: f32 = 5e-5;
/** What a handful of roundings may take from a number in single precision, as a share of it. */
const ROUNDING: f32 = 1e-6;
/** A roof that leans less (tangent) is level. */
const LEVEL: f32 = 1e-20;
/** The heights below a roof count where it leans more than this (tangent). */
const STEEP: f32 = 0.25;
/**
 * Highest contact above `atLeast`, which is returned when there is none; with `any` the first that is found.
 *
 * @param last triangle to begin with, -1 for none
 */
export function drop(
  pieceKind: i32,
  pieceFlat: f64,
  pieceCorner: f64,
  pieceRadius: f64,
  pieceSlope: f64,
  x: f64,
  y: f64,
  atLeast: f64,
  last: i32,
  any: i32,
): f64 {
  begin(pieceKind, pieceFlat, pieceCorner, pieceRadius, pieceSlope, x, y, atLeast);
  descend(last, any != 0);
  store<f64>(FOUND, along);
  store<i32>(FOUND_TRIANGLE, triangle);
  store<i32>(FOUND_TRIANGLE + 4, edge);
  return best;
}

/**
 * Walks the tree, the node that promises most first; with `any` only until something is touched. A node is passed over
 * when either its box or its roof keeps the cutter below the best contact so far. The tip over a whole plane of slope m is
 * T, touched at one place; at d from that place it is lower by at least d² / 2ρ with ρ = RE + (DC/2 - RE) / m: the ball
 * of the corner bends by 1 / RE, the rim of the flat by m / (DC/2 - RE), and the two give way one after the other, like
 * springs in a row. On the rim of a cone of slope s it is ρ = R / (m - s).
 *
 * A steep roof, such as a wall's with draft, says more. Beside the line of its lean through the axis, d away, the tip is lower
 * by at least m d² / DC, since r - sqrt(r² - d²) >= d² / 2r on every circle of the underside. And what lies below the roof at
 * height z stands at least flat + RE m / sqrt(1 + m²) + (z - touched) / m before the axis, so the tip on it is at most z less
 * the rise of the underside there: a sum that grows up to where the whole roof is touched and falls beyond, and so is largest
 * at the node's height that is nearest to it.
 */
function descend(last: i32, any: bool): void {
  let lastLeaf = -1;
  if (last >= 0) {
    lastLeaf = last / LEAF;
    offerCorners(last);
    leaf(lastLeaf);
    if (any && triangle >= 0) return;
  }
  const x4 = f32x4.splat(<f32>px);
  const y4 = f32x4.splat(<f32>py);
  const slack4 = f32x4.splat(<f32>(BOX_SLACK * (Math.abs(px) + Math.abs(py) + radius + extent)));
  const firstOfLevel1: i32 = levelCount > 2 ? load<i32>(levels + 4) : 0;
  let size = 0;
  const slot = nearTo(px, py, radius);
  if (slot == 0) {
    store<i32>(STACK, load<i32>(levels + ((<usize>(levelCount - 2)) << 2)));
    store<i32>(STACK + 4, levelCount - 2);
    store<f64>(PROMISE, Infinity);
    size = 1;
  } else {
    const beat4 = f32x4.splat(<f32>best);
    const level = levelIn(slot);
    const end = blocksIn(slot);
    for (let b = 0; b < end; b++) {
      const block = blockIn(slot, b);
      let near =
        promises(block, BOUND, x4, y4, slack4, beat4) | (promises(block + 16, BOUND + 16, x4, y4, slack4, beat4) << 4);
      while (near != 0) {
        const k = <i32>ctz(near);
        near &= near - 1;
        size = push(size, 0, <f64>load<f32>(BOUND + ((<usize>k) << 2)), nodeIn(slot, FAN * b + k), level);
      }
    }
  }
  while (size > 0) {
    size--;
    if (load<f64>(PROMISE + ((<usize>size) << 3)) <= best) continue;
    const node = load<i32>(STACK + ((<usize>size) << 3));
    const level = load<i32>(STACK + ((<usize>size) << 3) + 4);
    if (level == 0) {
      if (node == lastLeaf) continue;
      leaf(node);
      if (any && triangle >= 0) break;
      continue;
    }
    const base = size;
    const block = blocks + <usize>(node - firstOfLevel1) * BLOCK;
    const first: i32 =
      load<i32>(levels + ((<usize>(level - 1)) << 2)) + (node - load<i32>(levels + ((<usize>level) << 2))) * FAN;
    const beat4 = f32x4.splat(<f32>best);
    let near =
      promises(block, BOUND, x4, y4, slack4, beat4) | (promises(block + 16, BOUND + 16, x4, y4, slack4, beat4) << 4);
    while (near != 0) {
      const k = <i32>ctz(near);
      near &= near - 1;
      size = push(size, base, <f64>load<f32>(BOUND + ((<usize>k) << 2)), first + k, level - 1);
    }
  }
}

/** Puts a node among those from `base` on, the most promising one on top; returns how many wait now. */
function push(size: i32, base: i32, bound: f64, node: i32, level: i32): i32 {
  let at = size;
  for (; at > base; at--) {
    const before = PROMISE + ((<usize>at) << 3) - 8;
    const other = load<f64>(before);
    if (!(other > bound)) break;
    store<f64>(before + 8, other);
    const slot = STACK + ((<usize>at) << 3);
    store<i64>(slot, load<i64>(slot - 8));
  }
  store<f64>(PROMISE + ((<usize>at) << 3), bound);
  store<i32>(STACK + ((<usize>at) << 3), node);
  store<i32>(STACK + ((<usize>at) << 3) + 4, level);
  return size + 1;
}

/**
 * Which of four children may be higher than the best contact so far and within reach of the cutter, a bit each, and how high
 * the tip may get on each of them, at `out`. In single precision, with room for its rounding.
 */
function promises(o: usize, out: usize, x4: v128, y4: v128, slack4: v128, beat4: v128): i32 {
  const zero4 = f32x4.splat(0);
  const corner4 = f32x4.splat(<f32>corner);
  const flat4 = f32x4.splat(<f32>flat);
  const top = v128.load(o, TOP);
  const minX = v128.load(o, MIN_X);
  const minY = v128.load(o, MIN_Y);
  const maxX = v128.load(o, MAX_X);
  const maxY = v128.load(o, MAX_Y);
  const dx = outside4(minX, maxX, x4, slack4, zero4);
  const dy = outside4(minY, maxY, y4, slack4, zero4);
  const q = f32x4.add(f32x4.sub(top, beat4), slack4);
  // how far from the axis the cutter's underside is no higher than the top of the box
  let reach: v128;
  if (kind == CONE)
    reach = f32x4.pmin(f32x4.splat(<f32>radius), f32x4.add(flat4, f32x4.div(q, f32x4.splat(<f32>slope))));
  else {
    const e = f32x4.pmin(q, corner4);
    reach = f32x4.add(flat4, f32x4.sqrt(f32x4.pmax(zero4, f32x4.mul(e, f32x4.sub(f32x4.add(corner4, corner4), e)))));
  }
  reach = f32x4.add(reach, slack4);
  const d2 = f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy));
  const isNear = v128.and(f32x4.gt(q, zero4), f32x4.le(d2, f32x4.mul(reach, reach)));
  if (!v128.any_true(isNear)) return 0;
  const a = v128.load(o, A);
  const b = v128.load(o, B);
  const c = v128.load(o, C);
  const lean = v128.load(o, LEAN);
  const ax = f32x4.mul(a, x4);
  const by = f32x4.mul(b, y4);
  const isRim = f32x4.gt(lean, f32x4.splat(<f32>slope));
  // tip over the whole roof
  let over: v128;
  if (kind == CONE)
    over = v128.bitselect(
      f32x4.sub(f32x4.mul(f32x4.splat(<f32>radius), lean), f32x4.splat(<f32>(slope * (radius - flat)))),
      f32x4.mul(flat4, lean),
      isRim,
    );
  else over = f32x4.add(f32x4.mul(corner4, v128.load(o, SECANT)), f32x4.mul(flat4, lean));
  const size = f32x4.add(f32x4.add(f32x4.abs(ax), f32x4.abs(by)), f32x4.add(f32x4.abs(c), f32x4.abs(over)));
  const roof = f32x4.add(
    f32x4.add(f32x4.add(ax, by), f32x4.add(c, over)),
    f32x4.add(f32x4.splat(ROOF_SLACK), f32x4.mul(size, f32x4.splat(ROUNDING))),
  );
  const least = f32x4.sub(beat4, slack4);
  const isOver = v128.and(isNear, f32x4.gt(roof, least));
  if (!v128.any_true(isOver)) return 0;
  const run = f32x4.div(f32x4.splat(1), f32x4.pmax(lean, f32x4.splat(LEVEL)));
  // how far from the axis it is touched over the lean, and how fast the tip falls from there
  let off: v128;
  let bend: v128;
  if (kind == CONE) {
    const radius4 = f32x4.splat(<f32>radius);
    off = v128.and(isRim, f32x4.mul(radius4, run));
    bend = v128.bitselect(f32x4.div(radius4, f32x4.sub(lean, f32x4.splat(<f32>slope))), f32x4.splat(Infinity), isRim);
  } else {
    const rim = f32x4.mul(flat4, run);
    off = f32x4.add(f32x4.mul(corner4, v128.load(o, NZ)), v128.and(f32x4.gt(lean, zero4), rim));
    bend = f32x4.add(corner4, rim);
  }
  const ex = outside4(minX, maxX, f32x4.add(x4, f32x4.mul(off, a)), slack4, zero4);
  const ey = outside4(minY, maxY, f32x4.add(y4, f32x4.mul(off, b)), slack4, zero4);
  const fall = f32x4.div(f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey)), f32x4.add(bend, bend));
  const less = f32x4.splat(1 - ROUNDING);
  let bound = f32x4.pmin(f32x4.add(top, slack4), f32x4.sub(roof, f32x4.mul(fall, less)));
  const isSteep = f32x4.gt(lean, f32x4.splat(STEEP));
  if (kind != CONE && v128.any_true(isSteep)) {
    // beside the line of its lean through the axis it falls by m d² / DC
    const aside = f32x4.pmax(zero4, asideOf(a, b, minX, maxX, minY, maxY, x4, y4, slack4));
    const lower = f32x4.mul(f32x4.mul(aside, f32x4.mul(aside, less)), f32x4.mul(run, f32x4.splat(<f32>(0.5 / radius))));
    // where it is touched may stand higher or lower than anything below it
    const nz = v128.load(o, NZ);
    const touched = f32x4.add(f32x4.add(roof, slack4), f32x4.sub(corner4, f32x4.mul(corner4, nz)));
    const height = f32x4.pmin(f32x4.pmax(touched, v128.load(o, BOTTOM)), top);
    const away = f32x4.sub(
      f32x4.add(f32x4.mul(corner4, f32x4.mul(lean, nz)), f32x4.mul(f32x4.sub(height, touched), run)),
      slack4,
    );
    const e = f32x4.pmin(f32x4.pmax(zero4, away), corner4);
    const risen = f32x4.sub(corner4, f32x4.sqrt(f32x4.sub(f32x4.mul(corner4, corner4), f32x4.mul(e, e))));
    const within = v128.bitselect(
      f32x4.sub(f32x4.add(height, slack4), risen),
      f32x4.splat(-Infinity),
      f32x4.le(away, corner4),
    );
    bound = v128.bitselect(f32x4.pmin(f32x4.pmin(bound, f32x4.sub(roof, lower)), within), bound, isSteep);
  }
  v128.store(out, bound);
  return i32x4.bitmask(v128.and(isOver, f32x4.gt(bound, least)));
}

/** How far boxes lie beside the lines through a place along the lean (a, b), at least, times the lean; negative across them. */
function asideOf(
  a: v128,
  b: v128,
  minX: v128,
  maxX: v128,
  minY: v128,
  maxY: v128,
  x4: v128,
  y4: v128,
  slack4: v128,
): v128 {
  const half = f32x4.splat(0.5);
  const dx = f32x4.sub(f32x4.mul(half, f32x4.add(minX, maxX)), x4);
  const dy = f32x4.sub(f32x4.mul(half, f32x4.add(minY, maxY)), y4);
  const width = f32x4.add(slack4, f32x4.mul(half, f32x4.sub(maxX, minX)));
  const depth = f32x4.add(slack4, f32x4.mul(half, f32x4.sub(maxY, minY)));
  return f32x4.sub(
    f32x4.abs(f32x4.sub(f32x4.mul(b, dx), f32x4.mul(a, dy))),
    f32x4.add(f32x4.mul(f32x4.abs(b), width), f32x4.mul(f32x4.abs(a), depth)),
  );
}

/** How far places lie outside four intervals, at least. */
function outside4(low: v128, high: v128, at: v128, slack4: v128, zero4: v128): v128 {
  return f32x4.pmax(f32x4.sub(f32x4.pmax(f32x4.sub(low, at), f32x4.sub(at, high)), slack4), zero4);
}
