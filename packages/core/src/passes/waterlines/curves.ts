import type { Cancel } from '../../base/cancel';
import { defineTask } from '../../crew/task';
import { type BareSides, isBare } from '../../field/bareSides';
import { type Bounds, BoundsTest } from '../../field/bounds';
import { Buried } from '../../field/buried';
import { LevelCurves } from '../../field/levelCurves';
import { type TipGrid, TipSurface, type TipSurfaceSpec } from '../../field/tipSurface';
import { ClosestPoint } from '../../geometry/closest';
import { lengthOf, type Polygon, united } from '../../geometry/polygon';
import type { Touched } from '../../field/touched';
import { touchedFrom, Wanted, type WantedSpec } from '../../field/wanted';
import { FreeArea, touchesBorder } from '../../levels/freeArea';
import type { Loop } from '../../levels/loop';
import { linesOf } from '../../levels/regions';
import type { HeightMap } from '../../steel/heightMap';
import type { Direction } from '../../levels/loops';
import { ENOUGH } from '../scallop';

/** Places along a curve at which it is asked whether it is wanted lie so many cutter radii apart, and at most so many mm. */
const LOOK_SHARE = 0.2;
const LOOK_MM = 0.6;
/** A gap of so many looks in what is wanted is cut as well: at a border of slopes it comes and goes. */
const GAP_LOOKS = 3;
/** Shorter pieces are left out, mm. */
const SHORTEST_MM = 0.3;
/** How much higher than its place the round is looked at, so that a wall is nearer than the ground at its foot, mm. */
const HIGHER_MM = 0.02;
/**
 * A sharp edge is looked at as if it were so round, mm: from a place on the wall itself nobody could tell which way it faces.
 */
export const LEAST_ROUND_MM = 0.2;
/** A wall that ends over a height is looked for every so many mm. */
const UPWARD_MM = 0.5;
/** Where the part is farther than this from the round a line follows something else, mm. */
const OFF_MM = 0.07;
/** How far up and down a wall it is looked whether it bends, as a share of the step down. */
const PROBE_SHARE = 0.25;

export interface WaterlineInput {
  grid: TipGrid;
  spec: TipSurfaceSpec;
  bounds: Bounds;
  /**
   * Heights of the tip, and how often the distance between the first ones was halved for each; up to where the round may also touch a
   * wall that ends over that height, with what is straight above it.
   */
  heights: readonly { z: number; rank: number; upTo?: number }[];
  /** Distance between heights of rank 0, mm: on an upright wall that leaves the ridges that are asked for. */
  stepDown: number;
  /** Least slope of the walls that are cut, rad. */
  slopeFrom: number;
  tolerance: number;
  direction: Direction;
  /** Where the axis may go, and sides on which the part has nothing to be cut. */
  within: Polygon;
  bare: BareSides;
  steel: HeightMap;
  mostSteel: number;
  wanted: WantedSpec;
}

/** A piece of a curve, and whether the area beside it is open to the outside of the part: it is the wall of a closed one else. */
export interface WaterlineLoop extends Loop {
  readonly isOuter?: boolean;
}

/** Pieces of curves at a height. */
export interface Waterline {
  z: number;
  loops: WaterlineLoop[];
  /** Where one was cut short by too much steel. */
  stopped: (Pick<WaterlineLoop, 'isOuter'> & { readonly x: number; readonly y: number })[];
  /** How often distances between heights are to be halved hereabouts. */
  finest: number;
}

export const waterlinesTask = defineTask('waterlines', waterlines);

/** What of the level curves of the tip surface is to be cut at each height. */
export function waterlines(input: WaterlineInput, cancel?: Cancel): Waterline[] {
  const surface = new TipSurface(input.spec);
  const curves = new LevelCurves(input.grid, surface, cancel, input.tolerance);
  const bounds = new BoundsTest(input.bounds, cancel);
  const buried = new Buried(input.steel, input.spec.piece, input.mostSteel);
  const wanted = new Wanted(input.wanted, input.spec.piece, input.steel);
  const nearest = new ClosestPoint(input.spec.mesh);
  return input.heights.map(({ z, rank, upTo = z }) => {
    cancel?.check();
    const wall = curves.at(z);
    const closed = bounds.none ? [] : bounds.closedAt(z);
    const border = closed.length > 0 ? united([...wall, ...closed]) : wall;
    const out: Waterline = { z, loops: [], stopped: [], finest: 0 };
    if (border.length === 0) return out;
    const at: AtHeight = { input, bounds, buried, wanted, nearest, z, rank, upTo };
    for (const region of FreeArea.outside(border, input.within).regions) {
      const isOuter = touchesBorder(region.outer, input.within);
      for (const loop of linesOf(region, input.within, input.direction)) wantedParts({ ...loop, isOuter }, at, out);
    }
    return out;
  });
}

interface AtHeight {
  readonly input: WaterlineInput;
  readonly bounds: BoundsTest;
  readonly buried: Buried;
  readonly wanted: Wanted;
  readonly nearest: ClosestPoint;
  readonly z: number;
  readonly rank: number;
  readonly upTo: number;
}

/**
 * Where the round of the cutter touches the part, its tip at (x, y, z); undefined where its line follows something else. At the
 * foot of a wall it stands on the ground as well: looked at from a hair higher the steeper of the two is nearer.
 */
function touchedAt(at: AtHeight, place: OnLine): Touched | undefined {
  for (let z = at.z; ; z = Math.min(at.upTo, z + UPWARD_MM)) {
    const touched = touchedFromTip(at, place, z);
    if (touched || z >= at.upTo) return touched;
  }
}

function touchedFromTip(
  { input: { spec }, nearest }: AtHeight,
  { x, y, sideX, sideY }: OnLine,
  z: number,
): Touched | undefined {
  const corner = Math.max(spec.piece.corner, LEAST_ROUND_MM);
  const flat = spec.piece.radius - corner;
  const high = z + corner + HIGHER_MM;
  const seen = (side: number) => touchedFrom(nearest, x + side * flat * sideX, y + side * flat * sideY, high);
  // the middle of a bull-nose's round lies out towards the wall, on this side of the line or on the other
  const [one, other] = [seen(1), flat > 0 ? seen(-1) : undefined];
  const touched = other && other.distance < one.distance ? other : one;
  return touched.distance > corner + Math.max(spec.side, spec.floor) + OFF_MM ? undefined : touched;
}

/**
 * How far apart passes may lie on a wall at a place, as a share of their distance on a plane wall, in terms of where the
 * middle of the round goes: with its way ΔC and the turn of the normal Δn, ridges are as high where |ΔC|² - R ΔC·Δn is the same.
 * Looked at upward and downward; in a crease, which ends a wall, only one side bends.
 */
function bendShare(at: AtHeight, { x: px, y: py, z: pz, nx, ny, nz }: Touched): number {
  const { nearest } = at;
  const round = at.input.spec.piece.corner + at.input.spec.side;
  const level = Math.hypot(nx, ny);
  if (level < 1e-6) return 1;
  const up = [(-nx * nz) / level, (-ny * nz) / level, level] as const;
  const [cx, cy, cz] = [px + round * nx, py + round * ny, pz + round * nz];
  let share = 0;
  for (const far of [PROBE_SHARE * at.input.stepDown, -PROBE_SHARE * at.input.stepDown]) {
    const [qx, qy, qz] = [cx + far * up[0], cy + far * up[1], cz + far * up[2]];
    const there = touchedFrom(nearest, qx, qy, qz);
    const n = [there.nx, there.ny, there.nz] as const;
    const way = [there.x + round * n[0] - cx, there.y + round * n[1] - cy, there.z + round * n[2] - cz] as const;
    const square = way[0] ** 2 + way[1] ** 2 + way[2] ** 2;
    const turn = way[0] * (n[0] - nx) + way[1] * (n[1] - ny) + way[2] * (n[2] - nz);
    const wanted = square - round * turn;
    share = Math.max(share, wanted > 0 ? Math.sqrt(square / wanted) : 1);
  }
  return share;
}

const NO = 0;
const YES = 1;
const STEEL = 2;
const CLOSED = 3;

function lookAt(at: AtHeight, place: OnLine, out: Waterline): number {
  const { x, y } = place;
  const { input, bounds, buried, z, rank } = at;
  const { bare, slopeFrom } = input;
  const touched = touchedAt(at, place);
  if (!touched || isBare(bare, touched.x, touched.y)) return NO;
  const slope = Math.acos(Math.min(1, Math.max(0, touched.nz)));
  if (slope < slopeFrom) return NO;
  // along the surface the passes are as far apart as on an upright wall, nearer where it bends inward
  const halvings = Math.ceil(-Math.log2(Math.sin(slope) * Math.min(1, bendShare(at, touched)) * ENOUGH));
  if (halvings < rank) return NO;
  out.finest = Math.max(out.finest, halvings);
  if (!at.wanted.isAll && !at.wanted.isLeft(touched, x, y, z)) return NO;
  if (!bounds.none && bounds.forbids(x, y, z)) return CLOSED;
  return buried.at(x, y, z) ? STEEL : YES;
}

/** The parts of a line that are to be cut, and where steel ends them. */
function wantedParts(loop: WaterlineLoop, at: AtHeight, out: Waterline): void {
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
  for (let k = 0; k < count; k++) marks[k] = lookAt(at, placeOn(xy, k, closed), out);
  bridge(marks, closed);
  if (marks.every((m) => m === YES)) {
    out.loops.push(loop);
    return;
  }
  const { isOuter = false } = loop;
  const stop = (k: number): unknown => out.stopped.push({ x: xy[2 * k]!, y: xy[2 * k + 1]!, isOuter });
  if (marks.every((m) => m !== YES)) {
    // all of it is left
    const k = marks.indexOf(STEEL);
    if (k >= 0) stop(k);
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
        if (marks[o] === STEEL) stop(o);
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

/** A place of a line, and the unit vector square to it. */
interface OnLine {
  readonly x: number;
  readonly y: number;
  readonly sideX: number;
  readonly sideY: number;
}

function placeOn(xy: readonly number[], k: number, closed: boolean): OnLine {
  const n = xy.length / 2;
  const before = k > 0 ? k - 1 : closed ? n - 1 : k;
  const after = k + 1 < n ? k + 1 : closed ? 0 : k;
  const dx = xy[2 * after]! - xy[2 * before]!;
  const dy = xy[2 * after + 1]! - xy[2 * before + 1]!;
  const l = Math.max(Math.hypot(dx, dy), 1e-12);
  return { x: xy[2 * k]!, y: xy[2 * k + 1]!, sideX: -dy / l, sideY: dx / l };
}

/** Short gaps between what is wanted are cut as well, but where steel is too thick or the axis may not go. */
function bridge(marks: Uint8Array, closed: boolean): void {
  const n = marks.length;
  let since = -1;
  for (let s = 0; s < (closed ? 2 * n : n); s++) {
    const k = s % n;
    if (marks[k] === STEEL || marks[k] === CLOSED) since = -1;
    if (marks[k] !== YES) continue;
    if (since >= 0 && s - since > 1 && s - since <= GAP_LOOKS + 1)
      for (let g = since + 1; g < s; g++) marks[g % n] = YES;
    since = s;
  }
}
