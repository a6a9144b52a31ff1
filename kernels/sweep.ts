/**
 * Lowers a band of rows of a height map by straight moves of a round-cornered end mill or of a point, for WebAssembly (AssemblyScript:
 * every type is a machine type). `stock/sweep.ts` says what it means. Cells are looked at four at a time in single precision;
 * places are reckoned from the move's ends and sides in double precision first, so that what is left to round is small.
 */
import { alongLine, bullTouchFrom } from './bullTouch';
import {
  BALL,
  BULL,
  cell,
  changed,
  CONE,
  corner,
  firstTileRow,
  flat,
  FLAT,
  floor,
  flutes,
  heights,
  kind,
  largestOf,
  nx,
  own,
  radius,
  refresh,
  rowEnd,
  rowStart,
  slant,
  stales,
  sumOf,
  TILE,
  tilesX,
  tops,
  x0,
  y0,
} from './steel';

/** A tile's maximum is looked up anew after this many of its cells were lowered; until then it is an upper bound. */
const STALE_CELLS: i32 = 12;
const MOST_STALE: i32 = 255;
/** Entries of the bull-nose table: error below 2e-5 mm (measured), since the minimum is flat where it is read. */
const TABLE: i32 = 64;
/** Slopes of tables: a number's first twelve binary places, and half of the last one. */
const SLOPE_STEPS: i64 = ~0xffffffffff;
const HALF_STEP: i64 = 0x8000000000;
/** Plan length below which a move counts as a plunge, mm. */
const PLUNGE_MM: f64 = 1e-9;
/** Cells this near to a border of what is looked at are looked at, mm. */
const CLOSE_MM: f64 = 1e-5;
/** A cell lowered by less than this was cut before, mm: rounding of single precision heights. */
const FRESH_MM: f32 = 1e-3;
/** Squares of distances to the rim round by less than this share. */
const ON_RIM: f64 = 1 + 1e-6;

/** Steel this little above the flutes still counts as beside them, mm: rounding of paths and of single precision heights. */
const OVER_FLUTES_MM: f64 = 0.01;

/** A line across the move that leans less (cosine) crosses no row. */
const ALONG: f64 = 1e-6;

/** Own numbers: volume taken off (f64), cells lowered (f64), and the table. */
export const REMOVED: usize = 0;
export const CELLS: usize = 8;
const ENTRIES: usize = 64;

/** Thirds that a search for the lowest place is narrowed by: to a hundred thousandth of what it began with. */
const SEARCH: i32 = 30;

let tableSlope: f64 = NaN;
let ax: f64 = 0;
let ay: f64 = 0;
let ux: f64 = 1;
let uy: f64 = 0;
let length: f64 = 0;
let z0: f64 = 0;
/** Highest place of the tip in a plunge. */
let plungeTop: f64 = 0;
/** Whether the last move met steel that stands taller than its flutes, and left it standing. */
export let stands: bool = false;
let slope: f64 = 0;
let measures: bool = false;
/** Where the last cutting move ended, and whether this one goes on from there. */
let lastX: f64 = NaN;
let lastY: f64 = NaN;
let lastZ: f64 = NaN;
let goesOn: bool = false;
/** Whether that move left steel standing that is taller than its flutes: this one may come to it where that one ended. */
let lastStood: bool = false;
/** Whether the end of the last move was left to this one, and that move's direction and how far it may reach back. */
let owed: bool = false;
let owedX: f64 = 0;
let owedY: f64 = 0;
let owedBack: f64 = 0;
/** Whether this move's end is left to the next one. */
let leaves: bool = false;
/** Cells before and behind these places along the move need no look, mm. */
let firstU: f64 = 0;
let lastU: f64 = 0;

/** The next move begins elsewhere, whatever it is. */
export function breakOff(): void {
  lastX = NaN;
}

/** Whether the last move left its end to the next one. */
export function isOwed(): bool {
  return owed;
}

/** Whether a gentle move along u is followed by one along v in about the same direction: what it leaves at its end that one cuts. */
export function runsOn(ux: f64, uy: f64, uz: f64, vx: f64, vy: f64, vz: f64): bool {
  const u2 = ux * ux + uy * uy;
  const v2 = vx * vx + vy * vy;
  const dot = ux * vx + uy * vy;
  return uz * uz < u2 && vz * vz < v2 && dot > 0 && dot * dot > 0.25 * u2 * v2;
}

/** Cuts along a straight move; 1 when the move before left its end and this one does not begin there. */
export function move(fromX: f64, fromY: f64, fromZ: f64, toX: f64, toY: f64, toZ: f64, goesOnNext: bool): i32 {
  measures = false;
  goesOn = fromX == lastX && fromY == lastY && fromZ == lastZ;
  if (owed && !goesOn) return 1;
  if (lastStood) goesOn = false;
  leaves = goesOnNext;
  run(fromX, fromY, fromZ, toX, toY, toZ);
  lastStood = stands;
  owed = leaves && length > 0;
  owedX = ux;
  owedY = uy;
  owedBack = slope < 0 ? reachAlong() : 0;
  lastX = toX;
  lastY = toY;
  lastZ = toZ;
  return 0;
}

/** Volume that a move would take off. */
export function measure(fromX: f64, fromY: f64, fromZ: f64, toX: f64, toY: f64, toZ: f64): f64 {
  const removed = load<f64>(own, REMOVED);
  const cells = load<f64>(own, CELLS);
  measures = true;
  goesOn = false;
  leaves = false;
  run(fromX, fromY, fromZ, toX, toY, toZ);
  const volume = load<f64>(own, REMOVED) - removed;
  store<f64>(own, removed, REMOVED);
  store<f64>(own, cells, CELLS);
  return volume;
}

function run(fromX: f64, fromY: f64, fromZ: f64, toX: f64, toY: f64, toZ: f64): void {
  const low = Math.min(fromZ, toZ);
  stands = false;
  aim(fromX, fromY, fromZ, toX, toY, toZ);
  const i0 = max(0, <i32>Math.floor((Math.min(fromX, toX) - radius - x0) / cell - 0.5));
  const i1 = min(nx - 1, <i32>Math.ceil((Math.max(fromX, toX) + radius - x0) / cell - 0.5));
  const j0 = max(rowStart, <i32>Math.floor((Math.min(fromY, toY) - radius - y0) / cell - 0.5));
  const j1 = min(rowEnd - 1, <i32>Math.ceil((Math.max(fromY, toY) + radius - y0) / cell - 0.5));
  if (i0 > i1 || j0 > j1) return;
  if (kind == BULL && slope != 0) fillTable(Math.abs(slope));
  const side = TILE * cell;
  const half = side * Math.SQRT1_2;
  // of a row of tiles those between the lines across the move's ends and along its sides
  const crossesEnds = Math.abs(ux) > ALONG;
  const crossesSides = Math.abs(uy) > ALONG;
  const perTile = 1 / side;
  const before = (firstU - half) / ux;
  const behind = (lastU + half) / ux;
  const aside = (radius + half) / Math.abs(uy);
  const origin = ax - x0;
  for (let tj = j0 / TILE; tj <= j1 / TILE; tj++) {
    const py = y0 + (tj + 0.5) * side - ay;
    let from = <f64>(i0 / TILE);
    let to = <f64>(i1 / TILE);
    if (crossesEnds) {
      const shift = origin - (py * uy) / ux;
      from = Math.max(from, Math.floor((shift + Math.min(before, behind)) * perTile - 0.5));
      to = Math.min(to, Math.ceil((shift + Math.max(before, behind)) * perTile - 0.5));
    }
    if (crossesSides) {
      const shift = origin + (py * ux) / uy;
      from = Math.max(from, Math.floor((shift - aside) * perTile - 0.5));
      to = Math.min(to, Math.ceil((shift + aside) * perTile - 0.5));
    }
    // only then do both fit into a whole number
    if (from > to) continue;
    for (let ti = <i32>from; ti <= <i32>to; ti++) {
      const t = (tj - firstTileRow) * tilesX + ti;
      if (<i32>load<u8>(stales + <usize>t) >= STALE_CELLS) refresh(t);
      const top = <f64>load<f32>(tops + ((<usize>t) << 2));
      if (top <= low) continue;
      const px = x0 + (ti + 0.5) * side - ax;
      const u = px * ux + py * uy;
      if (u + half < firstU || u - half > lastU) continue;
      const v = py * ux - px * uy;
      const du = u < 0 ? u : u > length ? u - length : 0;
      const d = Math.sqrt(du * du + v * v) - half;
      if (d > radius || (d > 0 && top <= low + rise(d))) continue;
      const lowered = cutTile(ti * TILE, max(j0, tj * TILE), min(j1, tj * TILE + TILE - 1), low);
      if (lowered > 0 && !measures) {
        store<u8>(stales + <usize>t, <u8>min(MOST_STALE, <i32>load<u8>(stales + <usize>t) + lowered));
        store<u8>(changed + <usize>t, 1);
      }
    }
  }
}

function aim(fromX: f64, fromY: f64, fromZ: f64, toX: f64, toY: f64, toZ: f64): void {
  const dx = toX - fromX;
  const dy = toY - fromY;
  const way = Math.sqrt(dx * dx + dy * dy);
  ax = fromX;
  ay = fromY;
  if (way < PLUNGE_MM) {
    goesOn = false;
    leaves = false;
    firstU = -Infinity;
    lastU = Infinity;
    length = 0;
    ux = 1;
    uy = 0;
    slope = 0;
    z0 = Math.min(fromZ, toZ);
    plungeTop = Math.max(fromZ, toZ);
    return;
  }
  length = way;
  const hadOwed = goesOn && owed;
  ux = dx / way;
  uy = dy / way;
  slope = (toZ - fromZ) / way;
  z0 = fromZ;
  // what is touched at the move's very beginning was cut by the move that ended there, but for what that one left, which
  // lies beyond its end: around a turn it reaches back by R times the turn's sine
  const along = reachAlong();
  firstU = -radius;
  if (goesOn) {
    let back: f64 = slope < 0 ? along : 0;
    if (hadOwed) {
      const cos = ux * owedX + uy * owedY;
      const sin = Math.abs(ux * owedY - uy * owedX);
      back = cos > 0 ? Math.max(back, owedBack + radius * sin) : radius;
    }
    firstU = -back;
  }
  lastU = way + (leaves ? (slope > 0 ? along : 0) : radius);
}

/** How far along the move, at most, a cell's touching place may lie from the cell on a sloped move, mm. */
function reachAlong(): f64 {
  if (kind != BALL) return radius;
  return (radius * Math.abs(slope)) / Math.sqrt(1 + slope * slope);
}

/** Cuts the cells of one tile, whose first column is given, in rows j0 to j1; how many were lowered. */
function cutTile(column: i32, j0: i32, j1: i32, low: f64): i32 {
  const zero4 = f32x4.splat(0);
  const lanes = f32x4(0, 1, 2, 3);
  const least4 = f32x4.splat(<f32>Math.max(low, floor));
  const floor4 = f32x4.splat(<f32>floor);
  const R2 = radius * radius;
  const rim2 = f32x4.splat(<f32>(R2 * ON_RIM));
  const first4 = f32x4.splat(<f32>(firstU - CLOSE_MM));
  const last4 = f32x4.splat(<f32>(lastU - length + CLOSE_MM));
  const reach4 = f32x4.splat(<f32>(flutes + OVER_FLUTES_MM));
  const flat4 = f32x4.splat(<f32>flat);
  const corner4 = f32x4.splat(<f32>corner);
  const corner2 = f32x4.splat(<f32>(corner * corner));
  const z4 = f32x4.splat(<f32>z0);
  const isSloped = slope != 0;
  // a cone is touched where its side is as steep as the move: so far from the cell along the move for each mm beside it
  const steep = kind == CONE ? Math.abs(slope) / slant : 0;
  const aside4 = f32x4.splat(steep < 1 ? <f32>(steep / Math.sqrt(1 - steep * steep)) : Infinity);
  const flat2 = f32x4.splat(<f32>(flat * flat));
  const slant4 = f32x4.splat(<f32>slant);
  // steps from lane to lane: along the move, across it, and along the last one
  const du = cell * ux;
  const dv = -cell * uy;
  const dw = cell * owedX;
  const du4 = f32x4.mul(lanes, f32x4.splat(<f32>du));
  const dv4 = f32x4.mul(lanes, f32x4.splat(<f32>dv));
  const dw4 = f32x4.mul(lanes, f32x4.splat(<f32>dw));
  const owedFrom4 = f32x4.splat(owed ? <f32>(-owedBack - CLOSE_MM) : Infinity);
  // on the way down the flat takes the cells under it at the move's very end, which is the next move's
  const under: f64 = leaves && slope < 0 ? (kind == FLAT ? radius : kind == BALL ? 0 : flat) - CLOSE_MM : 0;
  const under2 = f32x4.splat(under > 0 ? <f32>(under * under) : -1);
  const isLast = column + TILE > nx;
  let removed4 = zero4;
  let fresh = 0;
  let lowered = 0;
  for (let j = j0; j <= j1; j++) {
    const row = heights + ((<usize>(j * nx + column)) << 2);
    const y = y0 + (j + 0.5) * cell - ay;
    for (let g = 0; g < TILE; g += 4) {
      const at = row + ((<usize>g) << 2);
      const h = v128.load(at);
      let on = f32x4.gt(h, least4);
      if (isLast) on = v128.and(on, i32x4.lt_s(i32x4(0, 1, 2, 3), i32x4.splat(nx - column - g)));
      if (!v128.any_true(on)) continue;
      const x = x0 + (column + g + 0.5) * cell - ax;
      const along = x * ux + y * uy;
      const u = f32x4.add(f32x4.splat(<f32>along), du4);
      const behind = f32x4.add(f32x4.splat(<f32>(along - length)), du4);
      const v = f32x4.add(f32x4.splat(<f32>(y * ux - x * uy)), dv4);
      const v2 = f32x4.mul(v, v);
      on = v128.and(v128.and(on, f32x4.le(v2, rim2)), v128.and(f32x4.ge(u, first4), f32x4.le(behind, last4)));
      if (!v128.any_true(on)) continue;
      // s: where along the move the cutter touches deepest, from its beginning and from its end; e: from there to the cell
      let s = u;
      let sEnd = behind;
      let e = zero4;
      if (isSloped) {
        e = f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(f32x4.splat(<f32>R2), v2)));
        if (kind == BALL) e = f32x4.mul(e, f32x4.splat(<f32>(slope / Math.sqrt(1 + slope * slope))));
        else {
          if (kind == BULL) e = f32x4.mul(e, shares(f32x4.abs(v)));
          else if (kind == CONE && steep < 1) {
            const onFlat = f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(flat2, v2)));
            e = f32x4.pmin(e, f32x4.pmax(onFlat, f32x4.mul(f32x4.abs(v), aside4)));
          }
          if (slope < 0) e = f32x4.neg(e);
        }
        s = f32x4.sub(u, e);
        sEnd = f32x4.sub(behind, e);
      }
      const isBefore = f32x4.le(s, zero4);
      const isBehind = v128.andnot(f32x4.ge(sEnd, zero4), isBefore);
      e = v128.bitselect(u, e, isBefore);
      e = v128.bitselect(behind, e, isBehind);
      const d2 = f32x4.add(f32x4.mul(e, e), v2);
      on = v128.and(on, f32x4.le(d2, rim2));
      if (goesOn) {
        const w = f32x4.add(f32x4.splat(<f32>(x * owedX + y * owedY)), dw4);
        on = v128.andnot(on, v128.and(isBefore, f32x4.lt(w, owedFrom4)));
      }
      if (leaves) {
        on = v128.andnot(on, isBehind);
        on = v128.andnot(on, f32x4.lt(f32x4.add(f32x4.mul(behind, behind), v2), under2));
      }
      let tip = z4;
      if (isSloped)
        tip = f32x4.add(
          z4,
          f32x4.mul(f32x4.splat(<f32>slope), f32x4.pmin(f32x4.splat(<f32>length), f32x4.pmax(zero4, s))),
        );
      let z = tip;
      if (kind == BALL) z = f32x4.add(z, f32x4.sub(corner4, f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(corner2, d2)))));
      else if (kind == BULL) {
        const out = f32x4.pmax(zero4, f32x4.sub(f32x4.sqrt(d2), flat4));
        z = f32x4.add(z, f32x4.sub(corner4, f32x4.sqrt(f32x4.pmax(zero4, f32x4.sub(corner2, f32x4.mul(out, out))))));
      } else if (kind == CONE) z = f32x4.add(z, f32x4.mul(slant4, f32x4.pmax(zero4, f32x4.sub(f32x4.sqrt(d2), flat4))));
      z = f32x4.pmax(z, floor4);
      on = v128.and(on, f32x4.lt(z, h));
      const tall = v128.and(on, f32x4.gt(h, f32x4.add(tip, reach4)));
      if (v128.any_true(tall)) {
        for (let k = 0; k < 4; k++) {
          if (!((i32x4.bitmask(tall) >> k) & 1)) continue;
          const px = x + k * cell;
          const height = <f64>load<f32>(at + ((<usize>k) << 2));
          const lowered = besideFlutes(px * ux + y * uy, y * ux - px * uy, height);
          if (lowered < height) z = withLane(z, k, <f32>Math.max(lowered, floor));
          else on = withLane(on, k, 0);
        }
      }
      const lanesOn = i32x4.bitmask(on);
      if (lanesOn == 0) continue;
      const taken = v128.and(f32x4.sub(h, z), on);
      removed4 = f32x4.add(removed4, taken);
      lowered += popcnt(lanesOn);
      fresh += popcnt(i32x4.bitmask(f32x4.gt(taken, f32x4.splat(FRESH_MM))));
      if (!measures) v128.store(at, v128.bitselect(z, h, on));
    }
  }
  if (lowered > 0) {
    store<f64>(own, load<f64>(own, REMOVED) + <f64>sumOf(removed4) * cell * cell, REMOVED);
    store<f64>(own, load<f64>(own, CELLS) + fresh, CELLS);
  }
  return lowered;
}

/**
 * Height of a cell that stands taller than the flutes where the cutter would touch it deepest, after the move: what comes under the
 * flutes from above is cut all the way down, and on the way up the flutes reach it once they are high enough. Otherwise it stays.
 *
 * @param u place of the cell along the move, `v` across it, mm
 */
function besideFlutes(u: f64, v: f64, height: f64): f64 {
  const reach = height - flutes - OVER_FLUTES_MM;
  const half = Math.sqrt(Math.max(0, radius * radius - v * v));
  if (length == 0) {
    if (plungeTop >= reach) return z0 + rise(Math.sqrt(u * u + v * v));
  } else if (slope < 0) {
    // the tip is highest where the rim comes to the cell first
    const first = Math.min(length, Math.max(0, u - half));
    if (z0 + slope * first >= reach) return lowestFrom(u, v, 0);
  } else if (slope > 0) {
    const from = (reach - z0) / slope;
    if (from <= Math.min(length, u + half)) {
      const lowered = lowestFrom(u, v, Math.max(0, from));
      // it comes under the flutes where the cutter does not reach down to it any more
      if (lowered >= height) return height;
      return lowered;
    }
  }
  stands = true;
  return height;
}

/** Lowest height of the swept cutter over a cell from a place of the move on: a convex function of the place. */
function lowestFrom(u: f64, v: f64, from: f64): f64 {
  const half = Math.sqrt(Math.max(0, radius * radius - v * v));
  let a = Math.max(from, u - half);
  let b = Math.min(length, u + half);
  if (a > b) return Infinity;
  for (let k = 0; k < SEARCH; k++) {
    const third = (b - a) / 3;
    if (sweptAt(u, v, a + third) <= sweptAt(u, v, b - third)) b -= third;
    else a += third;
  }
  return sweptAt(u, v, (a + b) / 2);
}

function sweptAt(u: f64, v: f64, s: f64): f64 {
  return z0 + slope * s + rise(Math.sqrt((u - s) * (u - s) + v * v));
}

/** Four numbers with one of them another. */
function withLane(v: v128, k: i32, value: f32): v128 {
  if (k == 0) return f32x4.replace_lane(v, 0, value);
  if (k == 1) return f32x4.replace_lane(v, 1, value);
  if (k == 2) return f32x4.replace_lane(v, 2, value);
  return f32x4.replace_lane(v, 3, value);
}

/** Height of the underside above its lowest disc at radius d. */
export function rise(d: f64): f64 {
  const e = d - flat;
  if (e <= 0) return 0;
  if (kind == CONE) return Math.min(corner, slant * e);
  return e >= corner ? corner : corner - Math.sqrt(corner * corner - e * e);
}

/**
 * For each distance v from the move's line: how far before the cell, along the move, the axis stands when the cutter touches
 * it deepest, as a share of the half chord sqrt(R² - v²), and by how much the next one differs: a share runs smoothly to the
 * rim, where the distance itself does not.
 */
function fillTable(exactly: f64): void {
  // slopes that differ this little share a table: where a cutter touches deepest its tip is flat
  const m = reinterpret<f64>((reinterpret<i64>(exactly) + HALF_STEP) & SLOPE_STEPS);
  if (m == tableSlope) return;
  tableSlope = m;
  const table = own + ENTRIES;
  let share: f64 = 0;
  let t = m / (1 + Math.sqrt(1 + m * m));
  for (let k = 0; k <= TABLE; k++) {
    const v = (<f64>k / TABLE) * radius;
    const before = share;
    if (k < TABLE) {
      t = bullTouchFrom(flat, corner, m, v, t);
      share = alongLine(flat, corner, v, t) / Math.sqrt(radius * radius - v * v);
    }
    const entry = table + ((<usize>k) << 3);
    store<f32>(entry, <f32>share);
    store<f32>(entry + 4, 0);
    if (k > 0) store<f32>(entry - 4, <f32>(share - before));
  }
}

/** Shares of the half chord from the table, for four distances from the move's line. */
function shares(v: v128): v128 {
  const at = f32x4.pmin(f32x4.mul(v, f32x4.splat(<f32>(<f64>TABLE / radius))), f32x4.splat(<f32>TABLE));
  const k = i32x4.trunc_sat_f32x4_s(at);
  const part = f32x4.sub(at, f32x4.convert_i32x4_s(k));
  const table = own + ENTRIES;
  const a = v128.load64_zero(table + ((<usize>i32x4.extract_lane(k, 0)) << 3));
  const b = v128.load64_zero(table + ((<usize>i32x4.extract_lane(k, 1)) << 3));
  const c = v128.load64_zero(table + ((<usize>i32x4.extract_lane(k, 2)) << 3));
  const d = v128.load64_zero(table + ((<usize>i32x4.extract_lane(k, 3)) << 3));
  const ab = v128.shuffle<i32>(a, b, 0, 4, 1, 5);
  const cd = v128.shuffle<i32>(c, d, 0, 4, 1, 5);
  const share = v128.shuffle<i64>(ab, cd, 0, 2);
  const step = v128.shuffle<i64>(ab, cd, 1, 3);
  return f32x4.add(share, f32x4.mul(step, part));
}
