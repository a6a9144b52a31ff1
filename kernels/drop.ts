/**
 * The contact of one convex profile piece with a mesh, for WebAssembly (AssemblyScript: every type is a machine type).
 * `cutter/drop.ts` says what it means.
 */
import {
  BOUND,
  FOUND,
  FOUND_TRIANGLE,
  PROMISE,
  STACK,
  LEAF,
  FAN,
  TRIANGLE,
  FACET,
  BLOCK,
  TOP,
  MIN_X,
  MIN_Y,
  MAX_X,
  MAX_Y,
  A,
  B,
  C,
  SECANT,
  LEAN,
  NZ,
  BOX_SLACK,
  triangles,
  facets,
  edges,
  blocks,
  levels,
  levelCount,
  count,
  extent,
} from './mesh';
import { bullTouch } from './bullTouch';

/** Contact of a point this far outside its facet (share of the facet's area) still counts: rounding of the test. */
const INSIDE: f64 = -1e-11;
/** Plan length below which an edge counts as upright, mm. */
const UPRIGHT_EDGE_MM: f64 = 1e-12;
/** What single precision may take from a roof's height, mm. */
const ROOF_SLACK: f32 = 5e-5;
/** What a handful of roundings may take from a number in single precision, as a share of it. */
const ROUNDING: f32 = 1e-6;
/** A roof that leans less (tangent) is level. */
const LEVEL: f32 = 1e-20;
/** The tangent to a bull-nose's tip function is taken no nearer to the rim than this share of the corner. */
const WELL_UNDER: f64 = 0.98;
const BALL: i32 = 1;
const BULL: i32 = 2;
const CONE: i32 = 3;

let kind: i32 = 0;
let flat: f64 = 0;
let corner: f64 = 0;
let radius: f64 = 0;
let slope: f64 = 0;
let px: f64 = 0;
let py: f64 = 0;
let best: f64 = 0;
let triangle: i32 = -1;
let edge: i32 = -1;
let along: f64 = 0;

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
  kind = pieceKind;
  flat = pieceFlat;
  corner = pieceCorner;
  radius = pieceRadius;
  slope = pieceSlope;
  px = x;
  py = y;
  best = atLeast;
  triangle = -1;
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
  store<i32>(STACK, load<i32>(levels + ((<usize>(levelCount - 2)) << 2)));
  store<i32>(STACK + 4, levelCount - 2);
  store<f64>(PROMISE, Infinity);
  let size = 1;
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
      const k = ctz(near);
      near &= near - 1;
      const bound = <f64>load<f32>(BOUND + ((<usize>k) << 2));
      // the most promising child of the node lies on top
      let at = size++;
      for (; at > base; at--) {
        const before = PROMISE + ((<usize>at) << 3) - 8;
        const other = load<f64>(before);
        if (!(other > bound)) break;
        store<f64>(before + 8, other);
        const slot = STACK + ((<usize>at) << 3);
        store<i64>(slot, load<i64>(slot - 8));
      }
      store<f64>(PROMISE + ((<usize>at) << 3), bound);
      store<i32>(STACK + ((<usize>at) << 3), first + <i32>k);
      store<i32>(STACK + ((<usize>at) << 3) + 4, level - 1);
    }
  }
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
  const lean = v128.load(o, LEAN);
  const ax = f32x4.mul(a, x4);
  const by = f32x4.mul(b, y4);
  const c = v128.load(o, C);
  // tip over the whole roof, how far from the axis it is touched over the lean, and how fast the tip falls from there
  let over: v128;
  let off: v128;
  let bend: v128;
  if (kind == CONE) {
    const slope4 = f32x4.splat(<f32>slope);
    const radius4 = f32x4.splat(<f32>radius);
    const isRim = f32x4.gt(lean, slope4);
    over = v128.bitselect(
      f32x4.sub(f32x4.mul(radius4, lean), f32x4.splat(<f32>(slope * (radius - flat)))),
      f32x4.mul(flat4, lean),
      isRim,
    );
    off = v128.and(isRim, f32x4.div(radius4, lean));
    bend = v128.bitselect(f32x4.div(radius4, f32x4.sub(lean, slope4)), f32x4.splat(Infinity), isRim);
  } else {
    over = f32x4.add(f32x4.mul(corner4, v128.load(o, SECANT)), f32x4.mul(flat4, lean));
    const rim = f32x4.div(flat4, f32x4.pmax(lean, f32x4.splat(LEVEL)));
    off = f32x4.add(f32x4.mul(corner4, v128.load(o, NZ)), v128.and(f32x4.gt(lean, zero4), rim));
    bend = f32x4.add(corner4, rim);
  }
  const size = f32x4.add(f32x4.add(f32x4.abs(ax), f32x4.abs(by)), f32x4.add(f32x4.abs(c), f32x4.abs(over)));
  const ex = outside4(minX, maxX, f32x4.add(x4, f32x4.mul(off, a)), slack4, zero4);
  const ey = outside4(minY, maxY, f32x4.add(y4, f32x4.mul(off, b)), slack4, zero4);
  const fall = f32x4.div(f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey)), f32x4.add(bend, bend));
  const roof = f32x4.add(
    f32x4.add(f32x4.add(ax, by), f32x4.add(c, over)),
    f32x4.add(f32x4.splat(ROOF_SLACK), f32x4.mul(size, f32x4.splat(ROUNDING))),
  );
  const bound = f32x4.pmin(f32x4.add(top, slack4), f32x4.sub(roof, f32x4.mul(fall, f32x4.splat(1 - ROUNDING))));
  v128.store(out, bound);
  return i32x4.bitmask(v128.and(isNear, f32x4.gt(bound, f32x4.sub(beat4, slack4))));
}

/** How far places lie outside four intervals, at least. */
function outside4(low: v128, high: v128, at: v128, slack4: v128, zero4: v128): v128 {
  return f32x4.pmax(f32x4.sub(f32x4.pmax(f32x4.sub(low, at), f32x4.sub(at, high)), slack4), zero4);
}

function leaf(node: i32): void {
  const first = node * LEAF;
  const end = min(count, first + LEAF);
  for (let i = first; i < end; i++) testTriangle(i);
}

function testTriangle(i: i32): void {
  const o = facets + <usize>i * FACET;
  const a = load<f64>(o);
  // not so for an upright facet, whose a is not a number
  if (a == a) {
    const b = load<f64>(o, 8);
    const secant = load<f64>(o, 24);
    const lean = load<f64>(o, 32);
    const below = a * px + b * py + load<f64>(o, 16);
    let disc = flat;
    let tip: f64;
    let bend: f64 = flat == 0 ? corner : corner + flat / lean;
    if (kind == CONE) {
      if (lean > slope) {
        tip = below + radius * lean - slope * (radius - flat);
        disc = radius;
        bend = radius / (lean - slope);
      } else {
        tip = below + flat * lean;
        bend = Infinity;
      }
    } else tip = below + corner * secant + flat * lean;
    if (tip <= best) return;
    const out = corner / (1 + secant) + (disc > 0 && lean > 0 ? disc / lean : 0);
    const off = outside(i, px + out * a, py + out * b);
    if (off < 0) {
      best = tip;
      triangle = i;
      edge = -1;
      return;
    }
    if (off > 2 * bend * (tip - best)) return;
  }
  // any place of the mesh under the cutter is a beginning, even one whose edges are left out
  if (best == -Infinity) offerCorners(i);
  const kept = <i32>load<u8>(edges + <usize>i);
  if (kept & 1) testEdge(i, 0);
  if (kept & 2) testEdge(i, 1);
  if (kept & 4) testEdge(i, 2);
}

/** -1 when (x, y) lies in triangle i in plan; else the square of its distance from an edge's line that it is behind, mm². */
function outside(i: i32, x: f64, y: f64): f64 {
  const o = triangles + <usize>i * TRIANGLE;
  const ax = load<f64>(o) - x;
  const ay = load<f64>(o, 8) - y;
  const bx = load<f64>(o, 24) - x;
  const by = load<f64>(o, 32) - y;
  const cx = load<f64>(o, 48) - x;
  const cy = load<f64>(o, 56) - y;
  let e0 = ax * by - ay * bx;
  let e1 = bx * cy - by * cx;
  let e2 = cx * ay - cy * ax;
  let area = e0 + e1 + e2;
  if (area < 0) {
    area = -area;
    e0 = -e0;
    e1 = -e1;
    e2 = -e2;
  }
  const slack = INSIDE * area;
  if (e0 < slack) return (e0 * e0) / ((bx - ax) * (bx - ax) + (by - ay) * (by - ay));
  if (e1 < slack) return (e1 * e1) / ((cx - bx) * (cx - bx) + (cy - by) * (cy - by));
  if (e2 < slack) return (e2 * e2) / ((ax - cx) * (ax - cx) + (ay - cy) * (ay - cy));
  return -1;
}

function testEdge(i: i32, e: i32): void {
  const t = triangles + <usize>i * TRIANGLE;
  const a = t + <usize>(24 * e);
  const b = e == 2 ? t : a + 24;
  const az = load<f64>(a, 16);
  const bz = load<f64>(b, 16);
  const highest = az > bz ? az : bz;
  if (highest <= best) return;
  const ax = load<f64>(a) - px;
  const ay = load<f64>(a, 8) - py;
  let ux = load<f64>(b) - load<f64>(a);
  let uy = load<f64>(b, 8) - load<f64>(a, 8);
  const length = Math.sqrt(ux * ux + uy * uy);
  const R2 = radius * radius;
  if (length < UPRIGHT_EDGE_MM) {
    const d2 = ax * ax + ay * ay;
    if (d2 <= R2) offer(highest - rise(Math.sqrt(d2)), i, e, az > bz ? 0 : 1);
    return;
  }
  ux /= length;
  uy /= length;
  const v = ax * uy - ay * ux;
  const v2 = v * v;
  const w2 = R2 - v2;
  if (w2 < 0 || highest - rise(Math.abs(v)) <= best) return;
  const w = Math.sqrt(w2);
  const sa = ax * ux + ay * uy;
  const lo = sa > -w ? sa : -w;
  const hi = sa + length < w ? sa + length : w;
  if (lo > hi) return;
  const m = (bz - az) / length;
  // no place between lo and hi is higher than the higher of the two, nor nearer to the axis than this
  const nearest: f64 = lo > 0 ? lo : hi < 0 ? hi : 0;
  const top = az + m * ((m > 0 ? hi : lo) - sa);
  if (top - rise(Math.sqrt(v2 + nearest * nearest)) <= best) return;
  let s: f64;
  if (kind == BULL) {
    s = bullSummit(m, v2, lo, hi, best - az + m * sa);
    if (s != s) return;
  } else {
    s = summit(m, Math.abs(v), w);
    if (s < lo) s = lo;
    else if (s > hi) s = hi;
  }
  const d = Math.sqrt(v2 + s * s);
  offer(az + m * (s - sa) - rise(d < radius ? d : radius), i, e, (s - sa) / length);
}

/**
 * Where between lo and hi a bull-nose's tip on an edge of slope m is highest; NaN when it is nowhere above `beat` there.
 * The tip m s - rise(s) is concave, so that its tangent anywhere bounds it: most edges are settled by the first one.
 */
function bullSummit(m: f64, v2: f64, lo: f64, hi: f64, beat: f64): f64 {
  const up = Math.abs(m);
  const radial = flat + (corner * up) / Math.sqrt(1 + up * up);
  const guess: f64 = radial * radial > v2 ? Math.sqrt(radial * radial - v2) : 0;
  let s = m < 0 ? -guess : guess;
  if (s < lo) s = lo;
  else if (s > hi) s = hi;
  const d = Math.sqrt(v2 + s * s);
  let risen: f64 = 0;
  let tangent = m;
  if (d > flat) {
    const most = corner * WELL_UNDER;
    const e = d - flat < most ? d - flat : most;
    const w = Math.sqrt(corner * corner - e * e);
    if (e >= most) return exactBullSummit(m, up, v2, lo, hi);
    risen = corner - w;
    tangent = m - (e * s) / (w * d);
  }
  const bound = m * s - risen + tangent * ((tangent > 0 ? hi : lo) - s);
  if (bound <= beat) return NaN;
  // at an end with the summit beyond it
  if ((tangent >= 0 && s == hi) || (tangent <= 0 && s == lo)) return s;
  return exactBullSummit(m, up, v2, lo, hi);
}

function exactBullSummit(m: f64, up: f64, v2: f64, lo: f64, hi: f64): f64 {
  if (m == 0) return lo > 0 ? lo : hi < 0 ? hi : 0;
  const touch = bullTouch(flat, corner, up, Math.sqrt(v2));
  const s = m > 0 ? touch : -touch;
  return s < lo ? lo : s > hi ? hi : s;
}

function offerCorners(i: i32): void {
  const t = triangles + <usize>i * TRIANGLE;
  for (let c = 0; c < 3; c++) {
    const p = t + <usize>(24 * c);
    const dx = load<f64>(p) - px;
    const dy = load<f64>(p, 8) - py;
    const d2 = dx * dx + dy * dy;
    if (d2 <= radius * radius) offer(load<f64>(p, 16) - rise(Math.sqrt(d2)), i, c, 0);
  }
}

function offer(tip: f64, i: i32, e: i32, at: f64): void {
  if (tip <= best) return;
  best = tip;
  triangle = i;
  edge = e;
  along = at;
}

/** Height of the underside above its lowest disc at radius d. */
function rise(d: f64): f64 {
  if (d <= flat) return 0;
  if (kind == CONE) return slope * (d - flat);
  const e = d - flat;
  return e >= corner ? corner : corner - Math.sqrt(corner * corner - e * e);
}

/** Where along an unbounded edge of slope m, v mm off the axis, the tip is highest, from the foot of the axis, mm. */
function summit(m: f64, v: f64, w: f64): f64 {
  if (m == 0) return 0;
  const up = Math.abs(m);
  let s = w;
  if (kind == BALL) s = (w * up) / Math.sqrt(1 + up * up);
  else if (kind == CONE) {
    if (up < slope) s = (v * up) / Math.sqrt(slope * slope - up * up);
    const onDisc: f64 = v < flat ? Math.sqrt(flat * flat - v * v) : 0;
    if (s < onDisc) s = onDisc;
  }
  return m > 0 ? s : -s;
}
