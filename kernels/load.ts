/**
 * How much of the cutter is in steel along its way, for WebAssembly (AssemblyScript: every type is a machine type).
 * `simulate/engagement.ts` says what it means. A motion is looked at before it is cut, in pieces: what a piece takes is the
 * steel between the cutter's underside at its beginning and that along it. Each cell's column is met first in one piece, so
 * pieces add up, however short they are.
 */
import {
  cell,
  corner,
  firstTileRow,
  flat,
  floor,
  flutes,
  heights,
  largestOf,
  nx,
  radius,
  rowEnd,
  rowStart,
  sumOf,
  TILE,
  tilesX,
  tops,
  x0,
  y0,
} from './steel';
import { rise } from './sweep';

/** Pieces of one motion at most. */
const MOST_PIECES: f64 = 128;
/** A column that is lower is rounding of single precision heights, mm. */
const NONE_MM: f64 = 1e-4;
/** A way that leans less (sine) from a row runs along it; borders of what is looked at are this wide, mm. */
const ALONG: f64 = 1e-6;
const EDGE_MM: f64 = 1e-6;
/** What goes less far in plan goes straight down or up, mm. */
const UPRIGHT_MM: f64 = 1e-9;
/** Share of a stretch by which it may be shorter, from rounding. */
const ROUNDING: f64 = 1e-9;
/**
 * Where the chip is thinner than this share of the way, the surface that cuts is reckoned as if it were this thick: half of what
 * it is on the mean in the outermost cell at the cutter's side.
 */
let thinnest: f64 = 0.05;
/** A record: the motion it ends in (i32), its number (i32), nine figures (f32), strips that are met, by all and by the flank (u64). */
const RECORD: usize = 64;

let records: usize = 0;
let most: i32 = 0;
/** Length of a stretch over which it is told, mm; strips that the cutter's width is divided into. */
let stretch: f64 = Infinity;
let strips: f64 = 64;
/** Columns that are lower are skimmed: they tell no angle, mm. */
let skim: f64 = 0;

let number: i32 = 0;
let written: i32 = 0;
let length: f64 = 0;
let volume: f64 = 0;
let surface: f64 = 0;
let deepest: f64 = 0;
let thickest: f64 = 0;
let rim: f64 = 0;
/** Cells that are met first, of all and of those that the flank meets. */
let cells: f64 = 0;
let flankCells: f64 = 0;
let met: u64 = 0;
let flankMet: u64 = 0;

/**
 * Says where records go and how many there is room for, over what length each tells, from the path's beginning, into how many
 * strips the cutter's width is divided, and how low columns may be that tell no angle.
 */
export function tellLoad(at: usize, room: i32, length: f64, count: i32, lowest: f64): void {
  records = at;
  most = room;
  stretch = length;
  strips = <f64>count;
  skim = lowest;
  thinnest = 0.5 * Math.sqrt(cell / (2 * radius));
  number = 0;
  clear();
}

/** Records are written from the beginning again. */
export function nextRecords(): void {
  written = 0;
}

/** How many records were written since. */
export function loadsTold(): i32 {
  return written;
}

/** The last stretch ends with the path: told as of the first motion of a batch. */
export function endLoad(): void {
  nextRecords();
  pass(0);
}

/** Looks at a motion that does not cut: a stretch ends with it. */
export function pass(k: i32): void {
  if (length > 0) close(k, 1);
}

/** Looks along a way before it is cut, which ends with a motion; where nothing is to be told it does not. */
export function follow(k: i32, ax: f64, ay: f64, az: f64, bx: f64, by: f64, bz: f64): void {
  const dx = bx - ax;
  const dy = by - ay;
  const dz = bz - az;
  const way = Math.sqrt(dx * dx + dy * dy + dz * dz);
  if (way == 0) return;
  const pieces = Math.max(1, Math.min(MOST_PIECES, Math.ceil(way / stretch - ROUNDING)));
  for (let p: f64 = 0; p < pieces; p++) {
    const s = p / pieces;
    const t = (p + 1) / pieces;
    look(ax + s * dx, ay + s * dy, az + s * dz, ax + t * dx, ay + t * dy, az + t * dz);
    length += way / pieces;
    if (length >= stretch * (1 - ROUNDING)) close(k, t);
  }
}

/** Whether the load is to be told, and how much of the present stretch is left, mm. */
export function isLoadWanted(): bool {
  return most > 0;
}
export function leftOfStretch(): f64 {
  return stretch - length;
}

/** What a stretch met is told, when it met anything, with the share of a motion at which it ends; the next one begins. */
function close(k: i32, share: f64): void {
  if (volume > 0 && written < most) {
    const at = records + <usize>written * RECORD;
    store<i32>(at, k);
    store<i32>(at, number, 4);
    store<f32>(at, <f32>share, 8);
    store<f32>(at, <f32>length, 12);
    store<f32>(at, <f32>(volume * cell * cell), 16);
    store<f32>(at, <f32>(surface * cell * cell), 20);
    store<f32>(at, <f32>(cells * cell * cell), 24);
    store<f32>(at, <f32>deepest, 28);
    store<f32>(at, <f32>thickest, 32);
    store<f32>(at, <f32>rim, 36);
    store<f32>(at, <f32>(flankCells * cell * cell), 40);
    store<u64>(at, met, 48);
    store<u64>(at, flankMet, 56);
    written++;
  }
  number++;
  clear();
}

function clear(): void {
  length = 0;
  volume = 0;
  surface = 0;
  deepest = 0;
  thickest = 0;
  rim = 0;
  cells = 0;
  flankCells = 0;
  met = 0;
  flankMet = 0;
}

/** Adds what a short straight piece takes. */
function look(ax: f64, ay: f64, az: f64, bx: f64, by: f64, bz: f64): void {
  const i0 = max(0, <i32>Math.floor((Math.min(ax, bx) - radius - x0) / cell - 0.5));
  const i1 = min(nx - 1, <i32>Math.ceil((Math.max(ax, bx) + radius - x0) / cell - 0.5));
  const j0 = max(rowStart, <i32>Math.floor((Math.min(ay, by) - radius - y0) / cell - 0.5));
  const j1 = min(rowEnd - 1, <i32>Math.ceil((Math.max(ay, by) + radius - y0) / cell - 0.5));
  if (i0 > i1 || j0 > j1) return;
  const dx = bx - ax;
  const dy = by - ay;
  const dz = bz - az;
  const plan = Math.sqrt(dx * dx + dy * dy);
  const way = plan < UPRIGHT_MM ? 0 : plan;
  const whole = Math.sqrt(way * way + dz * dz);
  const ux = way > 0 ? dx / way : 1;
  const uy = way > 0 ? dy / way : 0;
  const slope = way > 0 ? dz / way : 0;
  const cos = way / whole;
  const sin = dz / whole;
  const isDown = dz < 0;
  const low = Math.min(az, bz);
  const zero4 = f32x4.splat(0);
  const lanes4 = f32x4(0, 1, 2, 3);
  const du4 = f32x4.mul(lanes4, f32x4.splat(<f32>(cell * ux)));
  const dv4 = f32x4.mul(lanes4, f32x4.splat(<f32>(-cell * uy)));
  const low4 = f32x4.splat(<f32>low);
  const way4 = f32x4.splat(<f32>way);
  const slope4 = f32x4.splat(<f32>slope);
  // straight down all is met from the lower end
  const tip4 = f32x4.splat(<f32>(way > 0 ? az : low));
  const start4 = f32x4.splat(<f32>az);
  const touching = flat + corner * Math.abs(sin);
  const ward4 = f32x4.splat(isDown ? 1 : -1);
  const touch4 = f32x4.splat(<f32>(touching * touching));
  const R4 = f32x4.splat(<f32>(radius * radius));
  const flat24 = f32x4.splat(<f32>(flat * flat));
  const floor4 = f32x4.splat(<f32>floor);
  const flutes4 = f32x4.splat(<f32>flutes);
  const corner4 = f32x4.splat(<f32>corner);
  const none4 = f32x4.splat(Infinity);
  const least4 = f32x4.splat(<f32>NONE_MM);
  const side = TILE * cell;
  const half = side * Math.SQRT1_2;
  const leans = Math.abs(uy) > ALONG;
  const crosses = Math.abs(ux) > ALONG;
  const perX = 1 / ux;
  const perY = 1 / uy;
  const first = isDown ? -radius : 0;
  for (let tj = j0 / TILE; tj <= j1 / TILE; tj++)
    for (let ti = i0 / TILE; ti <= i1 / TILE; ti++) {
      const t = (tj - firstTileRow) * tilesX + ti;
      const top = <f64>load<f32>(tops + ((<usize>t) << 2));
      if (top <= low) continue;
      const mx = x0 + (ti + 0.5) * side - ax;
      const my = y0 + (tj + 0.5) * side - ay;
      const mu = mx * ux + my * uy;
      const mv = my * ux - mx * uy;
      const off = mu < 0 ? mu : mu > way ? mu - way : 0;
      const d = Math.sqrt(off * off + mv * mv) - half;
      if (d > radius || (d > 0 && top <= low + rise(d))) continue;
      // what lies behind is met on the way down only, and under the flat nothing is
      if (!isDown) {
        if (mu + half < 0) continue;
        const away = Math.sqrt(mx * mx + my * my);
        if (away + half < flat) continue;
      }
      const last = min(j1, tj * TILE + TILE - 1);
      for (let j = max(j0, tj * TILE); j <= last; j++) {
        const y = y0 + (j + 0.5) * cell - ay;
        // of the row what lies between the sides, ahead of the beginning and not beyond the end
        let left: f64 = -Infinity;
        let right: f64 = Infinity;
        if (leans) {
          const a = (y * ux - radius) * perY;
          const b = (y * ux + radius) * perY;
          left = Math.min(a, b);
          right = Math.max(a, b);
        } else if (Math.abs(y) > radius) continue;
        if (crosses) {
          const a = (first - y * uy) * perX;
          const b = (way + radius - y * uy) * perX;
          left = Math.max(left, Math.min(a, b));
          right = Math.min(right, Math.max(a, b));
        }
        for (let i = ti * TILE; i < ti * TILE + TILE; i += 4) {
          const begin = x0 + (i + 0.5) * cell - ax;
          if (begin > right + EDGE_MM || begin + 3 * cell < left - EDGE_MM) continue;
          const at = heights + ((<usize>(j * nx + i)) << 2);
          const h = v128.load(at);
          let on = f32x4.gt(h, low4);
          if (i + 4 > nx) on = v128.and(on, i32x4.lt_s(i32x4(0, 1, 2, 3), i32x4.splat(nx - i)));
          if (!v128.any_true(on)) continue;
          const u = f32x4.add(f32x4.splat(<f32>(begin * ux + y * uy)), du4);
          const v = f32x4.add(f32x4.splat(<f32>(y * ux - begin * uy)), dv4);
          const v2 = f32x4.mul(v, v);
          const along = f32x4.pmax(zero4, f32x4.pmin(way4, u));
          const beside = f32x4.sub(u, along);
          const d2 = f32x4.add(f32x4.mul(beside, beside), v2);
          on = v128.and(on, f32x4.le(d2, R4));
          const from2 = f32x4.add(f32x4.mul(u, u), v2);
          if (!isDown) on = v128.and(on, v128.and(f32x4.ge(u, zero4), f32x4.gt(from2, flat24)));
          if (!v128.any_true(on)) continue;
          const tip = f32x4.add(tip4, f32x4.mul(slope4, along));
          let to = f32x4.add(tip, under4(d2));
          if (dz != 0) {
            // lowest where it leaves the place behind on the way down, and where it comes to it on the way up
            const touch = f32x4.mul(ward4, f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(touch4, v2))));
            const last = f32x4.pmax(zero4, f32x4.pmin(way4, f32x4.add(u, touch)));
            const behind = f32x4.sub(u, last);
            const last2 = f32x4.add(f32x4.mul(behind, behind), v2);
            to = f32x4.pmin(to, f32x4.add(f32x4.add(tip4, f32x4.mul(slope4, last)), under4(last2)));
          }
          to = f32x4.pmax(to, floor4);
          on = v128.and(on, f32x4.gt(h, to));
          if (!v128.any_true(on)) continue;
          const before = v128.bitselect(f32x4.add(start4, under4(from2)), none4, f32x4.le(from2, R4));
          const from = f32x4.pmin(before, f32x4.pmin(h, f32x4.add(tip, flutes4)));
          on = v128.and(on, f32x4.gt(f32x4.sub(from, to), least4));
          if (!v128.any_true(on)) continue;
          const first = v128.and(on, f32x4.gt(before, f32x4.add(h, least4)));
          cells += popcnt(i32x4.bitmask(first));
          flankCells += popcnt(i32x4.bitmask(v128.and(first, f32x4.gt(f32x4.sub(from, tip), corner4))));
          take(on, f32x4.sub(from, tip), f32x4.sub(to, tip), v, from2, d2, <f32>cos, <f32>sin);
        }
      }
    }
}

/**
 * Adds columns that are taken.
 *
 * @param on which of four are
 * @param from their upper and lower ends above the tip where the cutter is nearest
 * @param v how far beside the way they stand; squares of their distances from the axis at the piece's beginning and at the nearest
 * @param cos of the way's slope, and its sine
 */
function take(on: v128, from: v128, to: v128, v: v128, from2: v128, d2: v128, cos: f32, sin: f32): void {
  const zero4 = f32x4.splat(0);
  const one4 = f32x4.splat(1);
  const cos4 = f32x4.splat(cos);
  const sin4 = f32x4.splat(sin);
  const corner4 = f32x4.splat(<f32>corner);
  const flat4 = f32x4.splat(<f32>flat);
  const radius4 = f32x4.splat(<f32>radius);
  const thin4 = f32x4.splat(<f32>thinnest);
  const v2 = f32x4.mul(v, v);
  const taken = v128.and(f32x4.sub(from, to), on);
  // under the flat the end cuts; what stands above the corner is met by the flank, the rest by the corner half way between its places
  const isEnd = v128.and(on, f32x4.le(from2, f32x4.mul(flat4, flat4)));
  const isSide = v128.andnot(on, isEnd);
  const isFlank = v128.and(isSide, f32x4.gt(from, corner4));
  const below = f32x4.sub(corner4, f32x4.pmin(corner4, from));
  const met4 = f32x4.add(
    flat4,
    f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(f32x4.mul(corner4, corner4), f32x4.mul(below, below)))),
  );
  const begun = v128.bitselect(radius4, met4, isFlank);
  const flank = v128.and(isFlank, f32x4.sub(from, f32x4.pmax(to, corner4)));
  const flankShare = v128.and(isFlank, f32x4.mul(cos4, across(v2, radius4)));
  const mid = f32x4.mul(f32x4.splat(0.5), f32x4.add(begun, f32x4.sqrt(d2)));
  const lean = corner > 0 ? f32x4.pmax(zero4, f32x4.pmin(one4, f32x4.div(f32x4.sub(mid, flat4), corner4))) : one4;
  const upright = f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(one4, f32x4.mul(lean, lean))));
  const cornerShare = f32x4.sub(f32x4.mul(f32x4.mul(cos4, lean), across(v2, mid)), f32x4.mul(sin4, upright));
  const otherShare = v128.bitselect(f32x4.neg(sin4), cornerShare, isEnd);
  const rest = f32x4.sub(taken, flank);
  const isOther = f32x4.gt(rest, zero4);
  const cutting = f32x4.add(
    f32x4.div(flank, f32x4.pmax(thin4, flankShare)),
    f32x4.div(rest, f32x4.pmax(thin4, otherShare)),
  );
  volume += <f64>sumOf(taken);
  surface += <f64>sumOf(v128.and(on, cutting));
  deepest = Math.max(deepest, <f64>largestOf(v128.and(on, from)));
  const tells = v128.and(on, f32x4.gt(taken, f32x4.splat(<f32>skim)));
  if (!v128.any_true(tells)) return;
  const share = f32x4.pmax(flankShare, v128.and(isOther, otherShare));
  thickest = Math.max(thickest, <f64>largestOf(v128.and(tells, share)));
  const sides = v128.and(tells, isSide);
  const lanes = i32x4.bitmask(sides);
  if (lanes == 0) return;
  rim = Math.max(rim, <f64>largestOf(v128.and(sides, begun)));
  const strip = f32x4.mul(f32x4.add(v, radius4), f32x4.splat(<f32>(strips / (2 * radius))));
  const place = i32x4.trunc_sat_f32x4_s(f32x4.pmax(zero4, f32x4.pmin(f32x4.splat(<f32>(strips - 1)), strip)));
  const flanks = i32x4.bitmask(v128.and(sides, isFlank));
  mark(lanes, flanks, 1, i32x4.extract_lane(place, 0));
  mark(lanes, flanks, 2, i32x4.extract_lane(place, 1));
  mark(lanes, flanks, 4, i32x4.extract_lane(place, 2));
  mark(lanes, flanks, 8, i32x4.extract_lane(place, 3));
}

/** Marks a strip as met, when a lane is among those that meet it. */
function mark(lanes: i32, flanks: i32, which: i32, strip: i32): void {
  const bit = (<u64>1) << (<u64>strip);
  if (lanes & which) met |= bit;
  if (flanks & which) flankMet |= bit;
}

/** Height of the cutter's underside above its tip at distances from the axis, given their squares. */
function under4(d2: v128): v128 {
  if (corner == 0) return f32x4.splat(0);
  const zero4 = f32x4.splat(0);
  const corner4 = f32x4.splat(<f32>corner);
  const e = f32x4.pmax(zero4, f32x4.sub(f32x4.sqrt(d2), f32x4.splat(<f32>flat)));
  return f32x4.sub(corner4, f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(f32x4.mul(corner4, corner4), f32x4.mul(e, e)))));
}

/** Cosine of the angle between the way and the direction in which a place lies beside it, from the square of how far, d from the axis. */
function across(v2: v128, d: v128): v128 {
  const share = f32x4.div(v2, f32x4.pmax(f32x4.splat(1e-12), f32x4.mul(d, d)));
  return f32x4.sqrt(f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.splat(1), share)));
}
