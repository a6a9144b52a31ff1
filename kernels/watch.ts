/**
 * Where shank and holder come into the steel as it stands, for WebAssembly (AssemblyScript: every type is a machine type).
 * `stock/steelContact.ts` says what it means. The highest steel around a place rules out most pieces of a stack, and that of
 * blocks of tiles most tiles: both are looked up now and then only, since steel gets lower only.
 */
import { deepest, excess, lowestFrom, outside, PIECE } from './stack';
import { cell, firstTileRow, nx, refresh, rowEnd, rowStart, stales, TILE, tilesX, tops, x0, y0 } from './steel';

/** Tiles along the side of a block of tiles, whose highest steel is kept too. */
const BLOCK: i32 = 8;
/** What was looked up is looked up again at the earliest after this many motions. */
const AGE: i32 = 400;
/** The band's highest steel is looked up again after this many. */
const TOP_AGE: i32 = 2000;
/** Shank and holder are looked at this often along a motion, mm. */
const LOOK_MM: f64 = 0.5;
/** Less than this inside the steel is touching, not contact, mm: rounding of single precision heights. */
export const TOUCH_MM: f64 = 2e-4;
/** Of a piece, where the table of highest steel around places lies (f64); of a table, `beyond` and whether it is begun (i32). */
const TABLE: usize = 40;
const TABLE_HEAD: usize = 8;

let blockTops: usize = 0;
let blockAges: usize = 0;
let blocksX: i32 = 0;
let blocks: i32 = 0;
let firstBlock: i32 = 0;
let moves: i32 = 0;
/** No steel of the band is higher, mm. */
export let top: f64 = Infinity;

/** Stacks, each with its count of pieces: as they are, and wider by half a stretch. */
let shank: usize = 0;
let wideShank: usize = 0;
let shankPieces: i32 = 0;
/** Neck and shank with what is no wider than the cutter: that meets only what stands taller than the flutes. */
let neck: usize = 0;
let neckPieces: i32 = 0;
let holder: usize = 0;
let wideHolder: usize = 0;
let holderPieces: i32 = 0;
/** Height of the holder's lower end above the tip, mm. */
let stickOut: f64 = Infinity;
/** Stretches of this length are looked at as a whole first, with shank and holder wider by half of it, mm. */
let stretch: f64 = 0;
/** Largest stick-out that any look so far asked for, mm. */
export let needed: f64 = 0;
/** How deep the last motion took neck or shank into steel (the shortest way out), and how much too low the holder was, mm. */
export let shankHit: f64 = 0;
export let holderHit: f64 = 0;

/** Begins to keep the highest steel of blocks of tiles, eight bytes each. */
export function watch(at: usize): void {
  const rows = (rowEnd + TILE * BLOCK - 1) / (TILE * BLOCK);
  blocksX = (tilesX + BLOCK - 1) / BLOCK;
  firstBlock = firstTileRow / BLOCK;
  blocks = blocksX * (rows - firstBlock);
  blockTops = at;
  blockAges = at + ((<usize>blocks) << 2);
  moves = 0;
  lookUpAll();
}

/** Says what stands above the cutter: stacks as `excess` takes them, wide ones by half a stretch; the holder's lower end at 0. */
export function stand(
  shankAt: usize,
  wideShankAt: usize,
  piecesOfShank: i32,
  neckAt: usize,
  piecesOfNeck: i32,
  holderAt: usize,
  wideHolderAt: usize,
  piecesOfHolder: i32,
  holderFrom: f64,
  stretchLength: f64,
): void {
  shank = shankAt;
  wideShank = wideShankAt;
  shankPieces = piecesOfShank;
  neck = neckAt;
  neckPieces = piecesOfNeck;
  holder = holderAt;
  wideHolder = wideHolderAt;
  holderPieces = piecesOfHolder;
  stickOut = holderFrom;
  stretch = stretchLength;
  needed = 0;
}

/** Tells that another motion has run: what was looked up grows old by it. */
export function age(): void {
  moves++;
  if (moves % TOP_AGE == 0) lookUpAll();
}

function lookUpAll(): void {
  top = -Infinity;
  for (let b = 0; b < blocks; b++) {
    lookUp(b);
    top = Math.max(top, <f64>load<f32>(blockTops + ((<usize>b) << 2)));
  }
}

function lookUp(b: i32): void {
  const bi = (b % blocksX) * BLOCK;
  const bj = (b / blocksX + firstBlock) * BLOCK;
  const i1 = min(tilesX, bi + BLOCK);
  const j1 = min((rowEnd + TILE - 1) / TILE, bj + BLOCK);
  let highest: f32 = -Infinity;
  for (let tj = max(bj, firstTileRow); tj < j1; tj++)
    for (let ti = bi; ti < i1; ti++) {
      const t = (tj - firstTileRow) * tilesX + ti;
      if (load<u8>(stales + <usize>t) > 0) refresh(t);
      highest = max(highest, load<f32>(tops + ((<usize>t) << 2)));
    }
  store<f32>(blockTops + ((<usize>b) << 2), highest);
  store<i32>(blockAges + ((<usize>b) << 2), moves);
}

/** How far (mm) the band's steel stands above a stack with its tip at (x, y, z); `known` when it is not more than that. */
export function above(stack: usize, pieces: i32, x: f64, y: f64, z: f64, known: f64): f64 {
  // pieces that stand over all steel around them need no look: they stand lowest first, widening upward
  const room = top - z - known;
  let widest: f64 = -1;
  for (let p = 0; p < pieces; p++) {
    const piece = stack + <usize>p * PIECE;
    const low = load<f64>(piece);
    if (low < room && low < topAround(piece, x, y, z + known + low) - z - known) widest = load<f64>(piece, 16);
  }
  if (widest < 0) return known;
  const i0 = max(0, <i32>Math.floor((x - widest - x0) / cell - 0.5));
  const i1 = min(nx - 1, <i32>Math.ceil((x + widest - x0) / cell - 0.5));
  const j0 = max(rowStart, <i32>Math.floor((y - widest - y0) / cell - 0.5));
  const j1 = min(rowEnd - 1, <i32>Math.ceil((y + widest - y0) / cell - 0.5));
  if (i0 > i1 || j0 > j1) return known;
  const t0 = i0 / TILE;
  const t1 = i1 / TILE;
  const r0 = j0 / TILE;
  const r1 = j1 / TILE;
  const side = TILE * BLOCK * cell;
  let most = known;
  for (let bj = r0 / BLOCK; bj * BLOCK <= r1; bj++)
    for (let bi = t0 / BLOCK; bi * BLOCK <= t1; bi++) {
      const b = (bj - firstBlock) * blocksX + bi;
      const at = blockTops + ((<usize>b) << 2);
      const dx = outside(x0 + bi * side - x, side);
      const dy = outside(y0 + bj * side - y, side);
      const under = z + most + lowestFrom(stack, pieces, Math.sqrt(dx * dx + dy * dy));
      if (<f64>load<f32>(at) <= under) continue;
      if (moves - load<i32>(blockAges + ((<usize>b) << 2)) > AGE) {
        lookUp(b);
        if (<f64>load<f32>(at) <= under) continue;
      }
      const ti = max(t0, bi * BLOCK);
      const tj = max(r0, bj * BLOCK);
      const endI = min(t1, bi * BLOCK + BLOCK - 1);
      const endJ = min(r1, bj * BLOCK + BLOCK - 1);
      most = excess(stack, pieces, x, y, z, most, ti, endI, tj, endJ, rowStart, rowEnd);
    }
  return most;
}

/** An upper bound of the steel within a piece's radius of (x, y), mm; looked up anew only when it is above `enough` and old. */
function topAround(piece: usize, x: f64, y: f64, enough: f64): f64 {
  const table = <usize>load<f64>(piece, TABLE);
  const beyond = load<i32>(table);
  const side = TILE * cell;
  const lastRow = (rowEnd + TILE - 1) / TILE - 1;
  const across = Math.floor((x - x0) / side);
  const down = Math.floor((y - y0) / side);
  // places far outside the band see nothing of it
  if (!(across >= -beyond && across < tilesX + beyond && down >= firstTileRow - beyond && down <= lastRow + beyond))
    return -Infinity;
  const width = tilesX + 2 * beyond;
  const count = width * (lastRow - firstTileRow + 1 + 2 * beyond);
  const known = table + TABLE_HEAD;
  const ages = known + ((<usize>count) << 2);
  if (load<i32>(table, 4) == 0) {
    store<i32>(table, 1, 4);
    for (let t = 0; t < count; t++) {
      store<f32>(known + ((<usize>t) << 2), Infinity);
      store<i32>(ages + ((<usize>t) << 2), -AGE - 1);
    }
  }
  const ti = <i32>across;
  const tj = <i32>down;
  const t = (tj - firstTileRow + beyond) * width + ti + beyond;
  const at = known + ((<usize>t) << 2);
  const old = <f64>load<f32>(at);
  if (old <= enough || moves - load<i32>(ages + ((<usize>t) << 2)) <= AGE) return old;
  const i0 = max(0, ti - beyond);
  const i1 = min(tilesX - 1, ti + beyond);
  const j1 = min(lastRow, tj + beyond);
  let highest: f32 = -Infinity;
  for (let j = max(firstTileRow, tj - beyond); j <= j1; j++) {
    const row = tops + ((<usize>((j - firstTileRow) * tilesX)) << 2);
    for (let i = i0; i <= i1; i++) highest = max(highest, load<f32>(row + ((<usize>i) << 2)));
  }
  store<f32>(at, highest);
  store<i32>(ages + ((<usize>t) << 2), moves);
  return <f64>highest;
}

/**
 * Looks for steel inside shank and holder along a motion that has run; `shankHit` and `holderHit` tell of it.
 *
 * @param meetsTall whether it met steel taller than its flutes, which may stand in the neck
 */
export function along(ax: f64, ay: f64, az: f64, bx: f64, by: f64, bz: f64, meetsTall: bool): void {
  age();
  shankHit = 0;
  holderHit = 0;
  if (meetsTall && neckPieces > 0) alongNeck(ax, ay, az, bx, by, bz);
  const low = Math.min(az, bz);
  const shankLow = shankPieces > 0 ? load<f64>(shank) : Infinity;
  const holderLow = holderPieces > 0 ? Math.min(needed, stickOut) : Infinity;
  if (low + shankLow >= top && low + holderLow >= top) return;
  const length = Math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay) + (bz - az) * (bz - az));
  const steps = Math.max(1, Math.ceil(length / LOOK_MM));
  const ahead = Math.max(1, Math.floor((stretch / length) * steps));
  for (let from: f64 = 0; from < steps; from += ahead) {
    const to = Math.min(steps, from + ahead);
    const middle = (from + to) / (2 * steps);
    const mx = ax + middle * (bx - ax);
    const my = ay + middle * (by - ay);
    const lowest = az + (bz - az) * (bz < az ? to / steps : from / steps);
    const isOne = to - from == 1;
    const known = Math.min(needed, stickOut);
    const seesShank =
      shankLow < Infinity && (isOne || above(wideShank, shankPieces, mx, my, lowest, TOUCH_MM) > TOUCH_MM);
    const seesHolder =
      holderLow < Infinity && (isOne || above(wideHolder, holderPieces, mx, my, lowest, known) > known);
    if (!seesShank && !seesHolder) continue;
    for (let k = from + 1; k <= to; k++) {
      const t = k / steps;
      const x = ax + t * (bx - ax);
      const y = ay + t * (by - ay);
      const z = az + t * (bz - az);
      if (seesShank && above(shank, shankPieces, x, y, z, TOUCH_MM) > TOUCH_MM)
        shankHit = Math.max(shankHit, deepest(shank, shankPieces, x, y, z, rowStart, rowEnd));
      if (!seesHolder) continue;
      const wanted = above(holder, holderPieces, x, y, z, Math.min(needed, stickOut));
      needed = Math.max(needed, wanted);
      holderHit = Math.max(holderHit, wanted - stickOut);
    }
  }
}

/** Looks at the neck along a motion that left steel standing that is taller than the flutes. */
function alongNeck(ax: f64, ay: f64, az: f64, bx: f64, by: f64, bz: f64): void {
  const length = Math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay) + (bz - az) * (bz - az));
  const steps = Math.max(1, Math.ceil(length / LOOK_MM));
  for (let k: f64 = 0; k <= steps; k++) {
    const t = k / steps;
    const x = ax + t * (bx - ax);
    const y = ay + t * (by - ay);
    const z = az + t * (bz - az);
    if (above(neck, neckPieces, x, y, z, TOUCH_MM) <= TOUCH_MM) continue;
    shankHit = Math.max(shankHit, deepest(neck, neckPieces, x, y, z, rowStart, rowEnd));
  }
}
