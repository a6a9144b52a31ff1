import type { Cancel } from '../../base/cancel';
import { defineTask } from '../../crew/task';
import { type Bounds, BoundsTest } from '../../field/bounds';
import { Buried } from '../../field/buried';
import { LevelCurves } from '../../field/levelCurves';
import { type TipGrid, TipSurface, type TipSurfaceSpec } from '../../field/tipSurface';
import { type Polygon, united } from '../../geometry/polygon';
import { FreeArea } from '../../levels/freeArea';
import type { Loop } from '../../levels/loop';
import { linesOf } from '../../levels/regions';
import type { HeightMap } from '../../steel/heightMap';
import type { Direction } from '../../levels/loops';

/** Places along a curve at which it is asked whether it is wanted lie so many cutter radii apart, and at most so many mm. */
const LOOK_SHARE = 0.15;
const LOOK_MM = 0.6;
/** A gap of so many looks in what is wanted is cut as well: at a border of slopes it comes and goes. */
const GAP_LOOKS = 3;
/** Shorter pieces are left out, mm. */
const SHORTEST_MM = 0.3;
/** Where the surface lies this far below its curve the wall is upright there, if it stands above the curve close by, mm. */
const JUMP_MM = 0.05;
const BESIDE_MM = 0.02;
/** From here on a contact is a wall's for sure, rad. */
const STEEP = Math.PI / 3;
/**
 * Passes may lie this much farther apart than is wanted before a height in between is cut: ridges grow with the square of it, to
 * 1.1 of what is asked for.
 */
const ENOUGH = 1.05;

export interface WaterlineInput {
  grid: TipGrid;
  spec: TipSurfaceSpec;
  bounds: Bounds;
  /** Heights of the tip, and how often the distance between the first ones was halved for each. */
  heights: readonly { z: number; rank: number }[];
  /** Distance between heights of rank 0, mm: on an upright wall that leaves the ridges that are asked for. */
  stepDown: number;
  /** Least slope of the walls that are cut, rad. */
  slopeFrom: number;
  tolerance: number;
  direction: Direction;
  /** Where the axis may go, and the sides of it beyond which the part has nothing to be cut: it is as wide as the blank. */
  within: Polygon;
  bare: { minX: number; minY: number; maxX: number; maxY: number };
  steel: HeightMap;
  mostSteel: number;
}

/** Pieces of curves at a height. */
export interface Waterline {
  z: number;
  loops: Loop[];
  /** Where one was cut short by too much steel. */
  stopped: [number, number][];
}

export const waterlinesTask = defineTask('waterlines', waterlines);

/** What of the level curves of the tip surface is to be cut at each height. */
export function waterlines(input: WaterlineInput, cancel?: Cancel): Waterline[] {
  const surface = new TipSurface(input.spec);
  const curves = new LevelCurves(input.grid, surface, cancel, input.tolerance);
  const bounds = new BoundsTest(input.bounds, cancel);
  const buried = new Buried(input.steel, input.spec.piece, input.mostSteel);
  return input.heights.map(({ z, rank }) => {
    cancel?.check();
    const wall = curves.at(z);
    const closed = bounds.none ? [] : bounds.closedAt(z);
    const border = closed.length > 0 ? united([...wall, ...closed]) : wall;
    const out: Waterline = { z, loops: [], stopped: [] };
    if (border.length === 0) return out;
    const at: AtHeight = { input, surface, bounds, buried, z, rank };
    for (const region of FreeArea.outside(border, input.within).regions)
      for (const loop of linesOf(region, input.within, input.direction)) wantedParts(loop, at, out);
    return out;
  });
}

interface AtHeight {
  readonly input: WaterlineInput;
  readonly surface: TipSurface;
  readonly bounds: BoundsTest;
  readonly buried: Buried;
  readonly z: number;
  readonly rank: number;
}

/** Slope of the wall at a place of its curve, rad; undefined where the line follows something else than the part. */
export function slopeAt(surface: TipSurface, x: number, y: number, z: number): number | undefined {
  const contactSlope = (): number => {
    const contact = surface.drop.contact();
    return contact ? Math.acos(Math.min(1, Math.abs(contact.nz))) : 0;
  };
  const isThere = surface.at(x, y) >= z - JUMP_MM;
  let slope = isThere ? contactSlope() : undefined;
  if (slope !== undefined && slope >= STEEP) return slope;
  // at the foot of a wall the cutter stands on the ground as well; an upright wall stands above the height a hair further
  for (let k = 0; k < 8; k++) {
    const a = (k * Math.PI) / 4;
    if (surface.at(x + BESIDE_MM * Math.cos(a), y + BESIDE_MM * Math.sin(a)) < z) continue;
    slope = Math.max(slope ?? 0, isThere ? contactSlope() : Math.PI / 2);
  }
  return slope;
}

const NO = 0;
const YES = 1;
const STEEL = 2;

function lookAt({ input, surface, bounds, buried, z, rank }: AtHeight, x: number, y: number): number {
  const { bare, slopeFrom, stepDown } = input;
  if (x < bare.minX || x > bare.maxX || y < bare.minY || y > bare.maxY) return NO;
  const slope = slopeAt(surface, x, y, z);
  if (slope === undefined || slope < slopeFrom) return NO;
  // along the surface the passes are as far apart as on an upright wall
  const apart = stepDown / 2 ** Math.max(0, rank - 1);
  if (rank > 0 && stepDown * Math.sin(slope) * ENOUGH >= apart) return NO;
  if (!bounds.none && bounds.forbids(x, y, z)) return NO;
  return buried.at(x, y, z) ? STEEL : YES;
}

/** The parts of a line that are to be cut, and where steel ends them. */
function wantedParts(loop: Loop, at: AtHeight, out: Waterline): void {
  const step = Math.min(LOOK_MM, LOOK_SHARE * at.input.spec.piece.radius);
  const { points: p, closed } = loop;
  const n = p.length / 2;
  const xy: number[] = [];
  /** Which places are points of the line itself. */
  const isOwn: boolean[] = [];
  for (let k = 0; k < (closed ? n : n - 1); k++) {
    const m = (k + 1) % n;
    const pieces = Math.max(1, Math.ceil(Math.hypot(p[2 * m]! - p[2 * k]!, p[2 * m + 1]! - p[2 * k + 1]!) / step));
    for (let s = 0; s < pieces; s++) {
      const t = s / pieces;
      isOwn.push(s === 0);
      xy.push(p[2 * k]! + t * (p[2 * m]! - p[2 * k]!), p[2 * k + 1]! + t * (p[2 * m + 1]! - p[2 * k + 1]!));
    }
  }
  if (!closed) {
    xy.push(p[2 * n - 2]!, p[2 * n - 1]!);
    isOwn.push(true);
  }
  const count = xy.length / 2;
  const marks = new Uint8Array(count);
  for (let k = 0; k < count; k++) marks[k] = lookAt(at, xy[2 * k]!, xy[2 * k + 1]!);
  bridge(marks, closed);
  if (marks.every((m) => m === YES)) {
    out.loops.push(loop);
    return;
  }
  const start = closed ? marks.findIndex((m) => m !== YES) : -1;
  let from = -1;
  const put = (to: number): void => {
    const points: number[] = [];
    for (let s = from; s <= to; s++) {
      const k = (s + count) % count;
      if (s === from || s === to || isOwn[k]) points.push(xy[2 * k]!, xy[2 * k + 1]!);
    }
    if (lengthOf(points) >= SHORTEST_MM) {
      out.loops.push({ ...loop, points: Float64Array.from(points), closed: false });
      for (const k of [from - 1, to + 1]) {
        if (!closed && (k < 0 || k >= count)) continue;
        const o = (k + count) % count;
        if (marks[o] === STEEL) out.stopped.push([xy[2 * o]!, xy[2 * o + 1]!]);
      }
    }
    from = -1;
  };
  const end = closed ? start + count : count;
  for (let s = start + 1; s <= end; s++) {
    const isWanted = s < end && marks[s % count] === YES;
    if (isWanted && from < 0) from = s;
    if (!isWanted && from >= 0) put(s - 1);
  }
}

/** Short gaps between what is wanted are cut as well, but where steel is too thick. */
function bridge(marks: Uint8Array, closed: boolean): void {
  const n = marks.length;
  let since = -1;
  for (let s = 0; s < (closed ? 2 * n : n); s++) {
    const k = s % n;
    if (marks[k] === STEEL) since = -1;
    if (marks[k] !== YES) continue;
    if (since >= 0 && s - since > 1 && s - since <= GAP_LOOKS + 1)
      for (let g = since + 1; g < s; g++) marks[g % n] = YES;
    since = s;
  }
}

function lengthOf(points: readonly number[]): number {
  let length = 0;
  for (let k = 2; k < points.length; k += 2)
    length += Math.hypot(points[k]! - points[k - 2]!, points[k + 1]! - points[k - 1]!);
  return length;
}
