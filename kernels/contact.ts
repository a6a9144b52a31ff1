/**
 * Contact of one convex profile piece with single triangles and their edges, for WebAssembly (AssemblyScript: every type is a
 * machine type). `cutter/drop.ts` says what it means.
 */
import { bullTouch } from './bullTouch';
import { count, edges, FACET, facets, LEAF, TRIANGLE, triangles } from './mesh';

/** Contact of a point this far outside its facet (share of the facet's area) still counts: rounding of the test. */
const INSIDE: f64 = -1e-11;
/** Plan length below which an edge counts as upright, mm. */
const UPRIGHT_EDGE_MM: f64 = 1e-12;
/** The tangent to a bull-nose's tip function is taken no nearer to the rim than this share of the corner. */
const WELL_UNDER: f64 = 0.98;
const BALL: i32 = 1;
const BULL: i32 = 2;
export const CONE: i32 = 3;

/** The piece, its axis, and the highest contact so far: its tip, its triangle and edge, and the share along the edge. */
export let kind: i32 = 0;
export let flat: f64 = 0;
export let corner: f64 = 0;
export let radius: f64 = 0;
export let slope: f64 = 0;
export let px: f64 = 0;
export let py: f64 = 0;
export let best: f64 = 0;
export let triangle: i32 = -1;
export let edge: i32 = -1;
export let along: f64 = 0;

/** Begins with a piece whose axis is at (x, y); contacts above `atLeast` count. */
export function begin(
  pieceKind: i32,
  pieceFlat: f64,
  pieceCorner: f64,
  pieceRadius: f64,
  pieceSlope: f64,
  x: f64,
  y: f64,
  atLeast: f64,
): void {
  kind = pieceKind;
  flat = pieceFlat;
  corner = pieceCorner;
  radius = pieceRadius;
  slope = pieceSlope;
  px = x;
  py = y;
  best = atLeast;
  triangle = -1;
}

/** Tests the triangles of a leaf. */
export function leaf(node: i32): void {
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
    // a level one is touched below the axis
    if (off > 2 * bend * (tip - best) || (lean == 0 && off > radius * radius)) return;
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

/** Offers a triangle's corners, whatever its edges. */
export function offerCorners(i: i32): void {
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
