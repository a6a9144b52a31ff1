/**
 * Runs motions of a toolpath over a band of steel, for WebAssembly (AssemblyScript: every type is a machine type).
 * `stock/machining.ts` says what it means. Motions come in batches: place 0 is where the first one begins, place `count + 1`
 * where the one behind the last ends.
 */
import { follow, isLoadWanted, leftOfStretch, nextRecords, pass } from './load';
import { cell, flat, flutes, own, radius } from './steel';
import { CELLS, move, REMOVED, runsOn, stands } from './sweep';
import { along, holderHit, needed, shankHit, top, TOUCH_MM } from './watch';

/** A kind of motion that does not cut. */
const RAPID: u8 = 0;
/** What is told of a motion: a kind (i32), its number in the batch (i32), an amount (f64). */
const SHANK: i32 = 1;
const HOLDER: i32 = 2;
const PLUNGE: i32 = 3;
const TOLD: usize = 16;
/** A flat or bull-nose cutter that goes down steeper than this over a fresh area is plunging: tan 45 degrees. */
const PLUNGE_SLOPE: f64 = 1;
/** Motions within 12° of their chord are looked at as one: square of the cosine. */
const STRAIGHT: f64 = 0.957;
/** Share of the cutter's disc from which a band tells what steep motions freshly cut in it: the bands' shares are summed. */
const LEAST_SHARE: f64 = 0.01;
/** Neck or shank this little inside steel is touching, not contact, mm: rounding of paths to their words and of the steel. */
const RUBS_MM: f64 = 2e-3;
/** Among a sweep's own numbers: the smallest stick-out that would have kept the holder clear. */
const NEEDED: usize = 16;

/** Places (f64 each), kinds of the motions that end there (u8), and of each motion its volume (f32). */
let xs: usize = 0;
let ys: usize = 0;
let zs: usize = 0;
let kinds: usize = 0;
let volumes: usize = 0;
let told: usize = 0;
let tellings: i32 = 0;
/** Motions that stay beside these places along y do not come near the band, mm. */
let low: f64 = -Infinity;
let high: f64 = Infinity;
let minds: bool = false;
/** Area cut freshly by the steep motions up to here, mm². */
let fresh: f64 = 0;

/**
 * Says where a batch lies, which stretch of y the band with the tool's reach takes, and whether the cutter cuts over its
 * centre.
 */
export function begin(
  placesX: usize,
  placesY: usize,
  placesZ: usize,
  kindsAt: usize,
  volumesAt: usize,
  toldAt: usize,
  lowY: f64,
  highY: f64,
  centreCutting: bool,
): void {
  xs = placesX;
  ys = placesY;
  zs = placesZ;
  kinds = kindsAt;
  volumes = volumesAt;
  told = toldAt;
  low = lowY;
  high = highY;
  minds = !centreCutting && flat > 0;
  fresh = 0;
}

/**
 * Runs a batch; how many things it has to tell, -1 when a move left its end and the next one does not begin there.
 *
 * @param leads whether the end of the last motion may be left to the one behind it
 */
export function runThrough(count: i32, leads: bool): i32 {
  tellings = 0;
  nextRecords();
  let followed = 0;
  const disc = Math.PI * radius * radius;
  for (let k = 1; k <= count; k++) {
    const out = (<usize>(k - 1)) << 2;
    store<f32>(volumes + out, 0);
    const at = (<usize>k) << 3;
    const ax = load<f64>(xs + at - 8);
    const ay = load<f64>(ys + at - 8);
    const az = load<f64>(zs + at - 8);
    const bx = load<f64>(xs + at);
    const by = load<f64>(ys + at);
    const bz = load<f64>(zs + at);
    const kind = load<u8>(kinds + <usize>k);
    // kinds of motion have feeds of their own
    if (kind == RAPID || kind != load<u8>(kinds + <usize>(k - 1))) pass(k - 2);
    if (kind != RAPID && k > followed && isLoadWanted()) followed = lookOn(k, count);
    if (!isNear(k)) {
      fresh = 0;
      continue;
    }
    store<f64>(own, 0, REMOVED);
    store<f64>(own, 0, CELLS);
    // where steel stands taller than the flutes it counts when they come to it: a move's end is not left to the next one there
    const isTall = top > Math.min(az, bz) + flutes;
    const leaves = !isTall && (k < count || leads) && isCutOn(k) && isNear(k + 1);
    if (move(ax, ay, az, bx, by, bz, leaves) != 0) return -1;
    store<f32>(volumes + out, <f32>load<f64>(own, REMOVED));
    const isSteep = az - bz > PLUNGE_SLOPE * Math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay));
    fresh = isSteep ? fresh + load<f64>(own, CELLS) * cell * cell : 0;
    if (isSteep && minds && fresh > LEAST_SHARE * disc) tell(PLUNGE, k, fresh / disc);
    along(ax, ay, az, bx, by, bz, stands);
    if (shankHit > RUBS_MM) tell(SHANK, k, shankHit);
    if (holderHit > TOUCH_MM) tell(HOLDER, k, holderHit);
  }
  store<f64>(own, needed, NEEDED);
  return tellings;
}

/** Looks at the load along motions from one on, as far as they go about straight on; which is the last of them. */
function lookOn(first: i32, count: i32): i32 {
  const from = (<usize>(first - 1)) << 3;
  const ax = load<f64>(xs + from);
  const ay = load<f64>(ys + from);
  const az = load<f64>(zs + from);
  // a little more than is left, so that motions of about half of it are taken in twos
  const left = 1.3 * leftOfStretch();
  let last = first;
  let at = from + 8;
  let dx = load<f64>(xs + at) - ax;
  let dy = load<f64>(ys + at) - ay;
  let dz = load<f64>(zs + at) - az;
  const length2 = dx * dx + dy * dy + dz * dz;
  while (last < count && load<u8>(kinds + <usize>(last + 1)) == load<u8>(kinds + <usize>first)) {
    const ex = load<f64>(xs + at + 8) - ax;
    const ey = load<f64>(ys + at + 8) - ay;
    const ez = load<f64>(zs + at + 8) - az;
    const vx = ex - dx;
    const vy = ey - dy;
    const vz = ez - dz;
    const v2 = vx * vx + vy * vy + vz * vz;
    const e2 = ex * ex + ey * ey + ez * ez;
    const dot = ex * vx + ey * vy + ez * vz;
    if (e2 > left * left || dot < 0 || dot * dot < STRAIGHT * v2 * e2) break;
    dx = ex;
    dy = ey;
    dz = ez;
    at += 8;
    last++;
  }
  if (length2 > 0 || last > first) follow(last - 1, ax, ay, az, ax + dx, ay + dy, az + dz);
  return last;
}

function tell(kind: i32, k: i32, amount: f64): void {
  const at = told + <usize>tellings * TOLD;
  store<i32>(at, kind);
  store<i32>(at, k - 1, 4);
  store<f64>(at, amount, 8);
  tellings++;
}

/** Whether a motion comes near enough to the band for the tool, holder and all, to reach over it. */
function isNear(k: i32): bool {
  const at = ys + ((<usize>k) << 3);
  const from = load<f64>(at - 8);
  const to = load<f64>(at);
  return !((from < low && to < low) || (from > high && to > high));
}

/** Whether a cutting motion is followed by another one that cuts what it leaves at its end. */
function isCutOn(k: i32): bool {
  const kind = kinds + <usize>k;
  if (load<u8>(kind) == RAPID || load<u8>(kind + 1) == RAPID) return false;
  const at = (<usize>k) << 3;
  const x = load<f64>(xs + at);
  const y = load<f64>(ys + at);
  const z = load<f64>(zs + at);
  return runsOn(
    x - load<f64>(xs + at - 8),
    y - load<f64>(ys + at - 8),
    z - load<f64>(zs + at - 8),
    load<f64>(xs + at + 8) - x,
    load<f64>(ys + at + 8) - y,
    load<f64>(zs + at + 8) - z,
  );
}
