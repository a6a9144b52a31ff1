import { squaredDistances } from '../../geometry/distanceTransform';
import {
  areaOf,
  boundsOf,
  contains,
  nearestOn,
  offsetPolygons,
  type Polygon,
  type Polyline,
  type Region,
  regionContains,
  reversed,
  simplifyRing,
  subtract,
} from '../../geometry/polygon';
import { type Cancel, LevelCurves } from '../../region/levelCurves';
import { type TipGrid, TipSurface, type TipSurfaceSpec } from '../../region/tipSurface';
import type { HeightMap } from '../../stock/heightMap';

/** Borders are simplified by this before they are offset into inner loops, mm; small against any side step. */
const INNER_SIMPLIFY_MM = 0.02;
/** Steel lower than this above the level is not worth a pass, mm. */
const THIN_MM = 0.02;
/** Points along a line at which it is asked whether it touches steel, mm apart. */
const LOOK_MM = 1;
/** How far around a place that meets steel curves are traced exactly, mm. */
const NEAR_MM = 0.2;
/** Looks kept before and behind a stretch in steel, so that it begins and ends in air. */
const RUN_IN = 2;
/** Two points this close to a straight border of the plan lie on it, mm. */
const ON_BORDER_MM = 1e-3;
/** Loops smaller than this are noise of the polygon library, mm². */
const SPECK_MM2 = 1e-4;

export interface LevelLoopsInput {
  grid: TipGrid;
  spec: TipSurfaceSpec;
  /** Heights of the levels to be worked out, mm. */
  levels: readonly number[];
  ae: number;
  /** Where the cutter's axis may go, counter-clockwise, and how far outside steel its border keeps the cutter, mm. */
  within: Polygon;
  outside: number;
  /** Steel before the step, coarse and never too low. */
  steel: HeightMap;
  radius: number;
  climb: boolean;
}

/** A line to cut at a level. */
export interface Loop {
  points: Polyline;
  closed: boolean;
}

/** A connected area at a level with the lines along its border; the areas inside it are cut first. */
export interface Nest {
  region: Region;
  loops: Loop[];
  inner: Nest[];
  /** How many side steps the area lies from the wall. */
  ring: number;
}

export interface LevelLoops {
  z: number;
  nests: Nest[];
}

/** The lines of each level: borders of the allowed area, and that area shrunk by one side step after the other. */
export function levelLoops(input: LevelLoopsInput, cancel?: Cancel): LevelLoops[] {
  const surface = new TipSurface(input.spec);
  const curves = new LevelCurves(input.grid, surface, cancel);
  return input.levels.map((z) => {
    cancel?.check();
    return { z, nests: nestsAt(input, curves, z) };
  });
}

function nestsAt(input: LevelLoopsInput, curves: LevelCurves, z: number): Nest[] {
  const { ae, within } = input;
  const steel = new SteelAtLevel(input.steel, z, input.radius);
  if (!steel.any) return [];
  // where the cutter meets no steel nothing is cut, and a rough curve does
  const wall = curves.at(z, (x, y) => steel.at(x, y, NEAR_MM));
  let simple = simplified(wall);
  if (wall.every((ring) => !touches(ring, within))) return openArea(input, steel);
  const roots: Nest[] = [];
  let outerRing: Nest[] = [];
  for (let ring = 0; ; ring++) {
    // each ring from the one before it: its corners are round and its notches closed already
    if (ring > 0) simple = simplified(offsetPolygons(simple, ae, INNER_SIMPLIFY_MM));
    const blocked = ring === 0 ? wall : simple;
    const regions = subtract([within], blocked).filter((r) => Math.abs(areaOf(r.outer)) > SPECK_MM2);
    const nests: Nest[] = [];
    for (const region of regions) {
      const loops = linesOf(region, within, input.climb).flatMap((loop) => steel.touching(loop));
      const nest: Nest = { region, loops, inner: [], ring };
      const parent = ring === 0 ? undefined : outerRing.find((n) => holds(n.region, region, within));
      if (ring === 0) roots.push(nest);
      else if (parent) parent.inner.push(nest);
      else continue;
      nests.push(nest);
    }
    outerRing = nests.filter((n) => steel.meets(n.region));
    if (outerRing.length === 0 || ring > 2000) break;
  }
  return roots;
}

function simplified(rings: readonly Polygon[]): Polygon[] {
  return rings.map((ring) => simplifyRing(ring, INNER_SIMPLIFY_MM)).filter((ring) => ring.length >= 6);
}

/** Whether any point of a curve lies in the plan. */
function touches(ring: Polygon, within: Polygon): boolean {
  for (let k = 0; k < ring.length; k += 2) if (contains(within, ring[k]!, ring[k + 1]!)) return true;
  return false;
}

/** A level without any wall: loops from outside the block inward, so that all of them begin in air. */
function openArea(input: LevelLoopsInput, steel: SteelAtLevel): Nest[] {
  let inner: Nest[] = [];
  for (let ring = 0; ; ring++) {
    const borders = offsetPolygons([input.within], -input.outside - (ring + 1) * input.ae);
    if (borders.length === 0) return inner;
    const nests = borders.map((outer): Nest => {
      const loop: Loop = { points: input.climb ? reversed(outer) : outer, closed: true };
      return { region: { outer, holes: [] }, loops: steel.touching(loop), inner: [], ring };
    });
    nests[0]!.inner = inner;
    inner = nests;
  }
}

/** Whether one region lies in another. Both may share the plan's border, so only points off it are asked. */
function holds(region: Region, inner: Region, within: Polygon): boolean {
  for (const ring of [...inner.holes, inner.outer])
    for (let k = 0; k < ring.length; k += 2) {
      const [x, y] = [ring[k]!, ring[k + 1]!];
      if (nearestOn(within, x, y, true).distance > ON_BORDER_MM) return regionContains(region, x, y);
    }
  return false;
}

/** The borders of a region without what lies on the border of the plan; wall on the right (climb, ISO 3002) or left. */
function linesOf(region: Region, within: Polygon, climb: boolean): Loop[] {
  const loops: Loop[] = [];
  for (const ring of [region.outer, ...region.holes])
    for (const loop of withoutBorder(ring, within))
      loops.push(climb ? loop : { points: reversed(loop.points), closed: loop.closed });
  return loops;
}

function withoutBorder(ring: Polygon, within: Polygon): Loop[] {
  const n = ring.length / 2;
  const onBorder: boolean[] = [];
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    const mx = (ring[2 * k]! + ring[2 * m]!) / 2;
    const my = (ring[2 * k + 1]! + ring[2 * m + 1]!) / 2;
    onBorder.push(
      nearestOn(within, mx, my, true).distance < ON_BORDER_MM &&
        nearestOn(within, ring[2 * k]!, ring[2 * k + 1]!, true).distance < ON_BORDER_MM,
    );
  }
  if (!onBorder.some(Boolean)) return [{ points: ring, closed: true }];
  const loops: Loop[] = [];
  const start = onBorder.indexOf(true);
  let line: number[] = [];
  for (let s = 1; s <= n; s++) {
    const k = (start + s) % n;
    const m = (k + 1) % n;
    if (onBorder[k]) {
      if (line.length > 2) loops.push({ points: Float64Array.from(line), closed: false });
      line = [];
      continue;
    }
    if (line.length === 0) line.push(ring[2 * k]!, ring[2 * k + 1]!);
    line.push(ring[2 * m]!, ring[2 * m + 1]!);
  }
  if (line.length > 2) loops.push({ points: Float64Array.from(line), closed: false });
  return loops;
}

/** Where, at one level, the cutter would touch steel. */
class SteelAtLevel {
  readonly any: boolean;
  private readonly distance2: Float32Array;
  private readonly reach: number;

  constructor(
    private readonly map: HeightMap,
    z: number,
    private readonly radius: number,
  ) {
    const marked = new Uint8Array(map.heights.length);
    let any = false;
    for (let o = 0; o < marked.length; o++)
      if (map.heights[o]! > z + THIN_MM) {
        marked[o] = 1;
        any = true;
      }
    this.any = any;
    this.distance2 = squaredDistances(marked, map.nx, map.ny);
    this.reach = radius / map.cell;
  }

  /** Whether the cutter with its axis at (x, y), or up to `room` mm from there, touches steel. */
  at(x: number, y: number, room = 0): boolean {
    const reach = this.reach + room / this.map.cell;
    const { x0, y0, cell, nx, ny } = this.map;
    const i = Math.floor((x - x0) / cell);
    const j = Math.floor((y - y0) / cell);
    if (i >= 0 && j >= 0 && i < nx && j < ny) return this.distance2[j * nx + i]! <= reach * reach;
    const ci = Math.min(nx - 1, Math.max(0, i));
    const cj = Math.min(ny - 1, Math.max(0, j));
    const away = Math.hypot(i - ci, j - cj);
    const left = reach - away;
    return left > 0 && this.distance2[cj * nx + ci]! <= left * left;
  }

  /** Whether anything is left to cut in a region: its border or a point inside touches steel. */
  meets(region: Region): boolean {
    for (const ring of [region.outer, ...region.holes])
      for (let k = 0; k < ring.length; k += 2) if (this.at(ring[k]!, ring[k + 1]!)) return true;
    const { cell } = this.map;
    const step = Math.max(cell, this.radius / 2);
    const [minX, minY, maxX, maxY] = boundsOf(region.outer);
    for (let y = minY; y <= maxY; y += step)
      for (let x = minX; x <= maxX; x += step) if (this.at(x, y) && regionContains(region, x, y)) return true;
    return false;
  }

  /** The parts of a line that touch steel; short gaps in air are kept, since leaving the work costs more. */
  touching(loop: Loop): Loop[] {
    const dense = densified(loop, LOOK_MM);
    const n = dense.length / 2;
    const touch = Array.from({ length: n }, (_, k) => this.at(dense[2 * k]!, dense[2 * k + 1]!));
    const gap = Math.ceil((4 * this.radius) / LOOK_MM);
    const keep = bridged(touch, gap, loop.closed);
    if (keep.every((k) => k)) return [loop];
    const loops: Loop[] = [];
    const start = loop.closed ? keep.indexOf(false) : -1;
    let line: number[] = [];
    for (let s = 1; s <= n; s++) {
      const k = (start + s + n) % n;
      if (keep[k]) line.push(dense[2 * k]!, dense[2 * k + 1]!);
      else if (line.length > 0) {
        if (line.length > 2) loops.push({ points: Float64Array.from(line), closed: false });
        line = [];
      }
    }
    if (line.length > 2) loops.push({ points: Float64Array.from(line), closed: false });
    return loops;
  }
}

function densified(loop: Loop, step: number): Polyline {
  const out: number[] = [];
  const p = loop.points;
  const n = p.length / 2;
  for (let k = 0; k < (loop.closed ? n : n - 1); k++) {
    const m = (k + 1) % n;
    const dx = p[2 * m]! - p[2 * k]!;
    const dy = p[2 * m + 1]! - p[2 * k + 1]!;
    const pieces = Math.max(1, Math.ceil(Math.hypot(dx, dy) / step));
    for (let s = 0; s < pieces; s++) out.push(p[2 * k]! + (dx * s) / pieces, p[2 * k + 1]! + (dy * s) / pieces);
  }
  if (!loop.closed) out.push(p[2 * n - 2]!, p[2 * n - 1]!);
  return Float64Array.from(out);
}

/** Marks with gaps of up to `gap` filled, and some more kept at either side of each stretch. */
function bridged(touch: boolean[], gap: number, closed: boolean): boolean[] {
  const n = touch.length;
  const keep = [...touch];
  const begin = closed ? touch.indexOf(true) : 0;
  if (begin < 0) return keep;
  let last = -1;
  for (let s = 0; s < n + (closed ? 1 : 0); s++) {
    const k = (begin + s) % n;
    if (!touch[k]) continue;
    if (last >= 0 && s - last - 1 <= gap) for (let g = last + 1; g < s; g++) keep[(begin + g) % n] = true;
    last = s;
  }
  for (let k = 0; k < n; k++) {
    if (!touch[k]) continue;
    for (let by = 1; by <= RUN_IN; by++) {
      if (closed || k >= by) keep[(k + n - by) % n] = true;
      if (closed || k + by < n) keep[(k + by) % n] = true;
    }
  }
  return keep;
}
