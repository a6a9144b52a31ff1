/**
 * Nearest place of a mesh to a point, for WebAssembly (AssemblyScript: every type is a machine type).
 * `geometry/closest.ts` says what it means.
 */
import {
  BLOCK,
  BOUND,
  blocks,
  BOTTOM,
  BOX_SLACK,
  count,
  extent,
  FAN,
  FOUND,
  FOUND_TRIANGLE,
  LEAF,
  levelCount,
  levels,
  MAX_X,
  MAX_Y,
  MIN_X,
  MIN_Y,
  PROMISE,
  STACK,
  TOP,
  TRIANGLE,
  triangles,
} from './mesh';

/** A square is no smaller than this share of its rounded number in single precision. */
const ROUNDED: f32 = 1 - 1e-6;

let px: f64 = 0;
let py: f64 = 0;
let pz: f64 = 0;
let best2: f64 = 0;
let last: i32 = -1;
let nearX: f64 = 0;
let nearY: f64 = 0;
let nearZ: f64 = 0;

/**
 * Squared distance to the nearest place, but at most `atMost2`; finds that place and its triangle, -1 when none is nearer.
 *
 * @param first triangle to begin with, -1 for none
 */
export function closest(x: f64, y: f64, z: f64, atMost2: f64, first: i32): f64 {
  px = x;
  py = y;
  pz = z;
  best2 = atMost2;
  last = -1;
  if (first >= 0) look(first);
  descend();
  store<f64>(FOUND, nearX);
  store<f64>(FOUND + 8, nearY);
  store<f64>(FOUND + 16, nearZ);
  store<i32>(FOUND_TRIANGLE, last);
  return best2;
}

/** Walks the tree of boxes, the nearest box first. */
function descend(): void {
  const x = px;
  const y = py;
  const z = pz;
  const slack4 = f32x4.splat(<f32>(BOX_SLACK * (Math.abs(x) + Math.abs(y) + Math.abs(z) + extent)));
  const x4 = f32x4.splat(<f32>x);
  const y4 = f32x4.splat(<f32>y);
  const z4 = f32x4.splat(<f32>z);
  const firstOfLevel1: i32 = levelCount > 2 ? load<i32>(levels + 4) : 0;
  store<i32>(STACK, load<i32>(levels + ((<usize>(levelCount - 2)) << 2)));
  store<i32>(STACK + 4, levelCount - 2);
  store<f64>(PROMISE, 0);
  let size = 1;
  while (size > 0) {
    size--;
    if (load<f64>(PROMISE + ((<usize>size) << 3)) >= best2) continue;
    const node = load<i32>(STACK + ((<usize>size) << 3));
    const level = load<i32>(STACK + ((<usize>size) << 3) + 4);
    if (level == 0) {
      const begin = node * LEAF;
      const end = min(count, begin + LEAF);
      for (let i = begin; i < end; i++) look(i);
      continue;
    }
    const base = size;
    const block = blocks + <usize>(node - firstOfLevel1) * BLOCK;
    const first: i32 =
      load<i32>(levels + ((<usize>(level - 1)) << 2)) + (node - load<i32>(levels + ((<usize>level) << 2))) * FAN;
    // all eight at once in single precision, with room for its rounding
    const best4 = f32x4.splat(<f32>(best2 * 1.000001));
    let near =
      nearOf(block, BOUND, x4, y4, z4, slack4, best4) |
      (nearOf(block + 16, BOUND + 16, x4, y4, z4, slack4, best4) << 4);
    while (near != 0) {
      const k = ctz(near);
      near &= near - 1;
      const d2 = <f64>load<f32>(BOUND + ((<usize>k) << 2));
      // the nearest child lies on top
      let at = size++;
      for (; at > base; at--) {
        const before = PROMISE + ((<usize>at) << 3) - 8;
        const other = load<f64>(before);
        if (!(other < d2)) break;
        store<f64>(before + 8, other);
        const slot = STACK + ((<usize>at) << 3);
        store<i64>(slot, load<i64>(slot - 8));
      }
      store<f64>(PROMISE + ((<usize>at) << 3), d2);
      store<i32>(STACK + ((<usize>at) << 3), first + <i32>k);
      store<i32>(STACK + ((<usize>at) << 3) + 4, level - 1);
    }
  }
}

/** Which of four boxes may be nearer than the nearest place so far, a bit each, and the squares of their distances, at `out`. */
function nearOf(o: usize, out: usize, x4: v128, y4: v128, z4: v128, slack4: v128, best4: v128): i32 {
  const zero4 = f32x4.splat(0);
  const dx = outside(v128.load(o, MIN_X), v128.load(o, MAX_X), x4, zero4, slack4);
  const dy = outside(v128.load(o, MIN_Y), v128.load(o, MAX_Y), y4, zero4, slack4);
  const dz = outside(v128.load(o, BOTTOM), v128.load(o, TOP), z4, zero4, slack4);
  const d2 = f32x4.mul(
    f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)),
    f32x4.splat(ROUNDED),
  );
  v128.store(out, d2);
  return i32x4.bitmask(f32x4.le(d2, best4));
}

function outside(low: v128, high: v128, at: v128, zero4: v128, slack4: v128): v128 {
  return f32x4.pmax(f32x4.sub(f32x4.pmax(f32x4.sub(low, at), f32x4.sub(at, high)), slack4), zero4);
}

/** Closest point on a triangle after Ericson, Real-Time Collision Detection, 2004 (from memory). */
function look(i: i32): void {
  const o = triangles + <usize>i * TRIANGLE;
  const ax = load<f64>(o);
  const ay = load<f64>(o, 8);
  const az = load<f64>(o, 16);
  const abx = load<f64>(o, 24) - ax;
  const aby = load<f64>(o, 32) - ay;
  const abz = load<f64>(o, 40) - az;
  const acx = load<f64>(o, 48) - ax;
  const acy = load<f64>(o, 56) - ay;
  const acz = load<f64>(o, 64) - az;
  const apx = px - ax;
  const apy = py - ay;
  const apz = pz - az;
  const d1 = abx * apx + aby * apy + abz * apz;
  const d2 = acx * apx + acy * apy + acz * apz;
  let v: f64 = 0;
  let w: f64 = 0;
  if (d1 > 0 || d2 > 0) {
    const abab = abx * abx + aby * aby + abz * abz;
    const abac = abx * acx + aby * acy + abz * acz;
    const acac = acx * acx + acy * acy + acz * acz;
    const d3 = d1 - abab;
    const d4 = d2 - abac;
    const d5 = d1 - abac;
    const d6 = d2 - acac;
    const vc = d1 * d4 - d3 * d2;
    const vb = d5 * d2 - d1 * d6;
    const va = d3 * d6 - d5 * d4;
    if (d3 >= 0 && d4 <= d3) v = 1;
    else if (d6 >= 0 && d5 <= d6) w = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) v = d1 / (d1 - d3);
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = d2 / (d2 - d6);
    else if (va <= 0 && d4 >= d3 && d5 >= d6) {
      w = (d4 - d3) / (d4 - d3 + (d5 - d6));
      v = 1 - w;
    } else {
      const whole = 1 / (va + vb + vc);
      v = vb * whole;
      w = vc * whole;
    }
  }
  const dx = apx - v * abx - w * acx;
  const dy = apy - v * aby - w * acy;
  const dz = apz - v * abz - w * acz;
  const distance2 = dx * dx + dy * dy + dz * dz;
  if (distance2 < best2) {
    best2 = distance2;
    last = i;
    nearX = px - dx;
    nearY = py - dy;
    nearZ = pz - dz;
  }
}
