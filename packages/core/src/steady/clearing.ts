import type { Cancel } from '../base/cancel';
import { type Polyline, reversed, simplifyLine } from '../geometry/polygon';
import { alongOf } from '../levels/loop';
import { frontLoad } from './front';
import { joined, lineAt, type PlanGrid, valueAt } from './planGrid';
import { AirWays, type Front } from './airWays';
import type { LevelSteel } from './levelSteel';
import { type PassOptions, PassCutter } from './steadyPass';

/** A pass that takes less than this share of a step aside along one radius is none. */
const WEAK_SHARE = 0.05;
/** Fronts within so many radii of one that gave nothing are left out as well. */
const BAN_RADII = 0.1;
/** Longest pass in radii: a spiral over the whole plan has its end somewhere. */
const LONGEST_RADII = 4000;
/** A load below this along the wall is not worth a cut, rad; and gaps of so many radii between such places are not left out. */
const THIN_LOAD = 0.15;
const GAP_RADII = 0.6;
/** Widest helix, in radii. */
const WIDEST_HELIX = 0.8;

/**
 * How a run begins: along a way through air from where the last one ended, down from above in air, or in a helix, which turns
 * counter-clockwise (1) or clockwise (-1), as the pass goes on.
 */
export type Begin =
  | { readonly by: 'way'; readonly points: Float64Array }
  | { readonly by: 'air' }
  | { readonly by: 'helix'; readonly x: number; readonly y: number; readonly radius: number; readonly way: 1 | -1 };

/** A pass and how it begins: x and y in turn, mm. */
export interface Run {
  readonly begin: Begin;
  readonly points: Float64Array;
}

export interface ClearingOptions extends PassOptions {
  /** Signed distance of where walls let the axis be; where it may be can be less, since steel beside is not to be cut. */
  readonly walls: Float32Array;
  /** How far points that are left out may be off, mm. */
  readonly tolerance: number;
  /** Largest and smallest radius of helices, mm. */
  readonly helix: { readonly least: number; readonly most: number };
  /** Passes run alternately with the steel on their right and on their left. */
  readonly both: boolean;
  readonly cancel?: Cancel | undefined;
}

/**
 * Clears the steel at a height by passes of steady load: each from where a front comes to the wall, the next one where the
 * shortest way through air leads.
 *
 * @param at where the cutter stands at this height; undefined when it comes from above
 * @returns the runs, and where the cutter stands then
 */
export function clear(
  steel: LevelSteel,
  options: ClearingOptions,
  at: readonly [number, number] | undefined,
): { runs: Run[]; at: readonly [number, number] | undefined } {
  const { radius } = steel;
  const runs: Run[] = [];
  const ways = new AirWays(steel, options.axis, options.walls);
  const cutters = {
    1: new PassCutter(steel, options),
    [-1]: new PassCutter(steel, { ...options, side: mirrored(options.side) }),
  };
  const weak = WEAK_SHARE * radius * radius * (1 - Math.cos(options.load));
  let here = at;
  let way: 1 | -1 = 1;
  const run = (begin: Begin, x: number, y: number, heading: number): boolean => {
    options.cancel?.check();
    const pass =
      cutters[way].cut(x, y, heading, LONGEST_RADII * radius, weak) ??
      cutters[way].cut(x, y, heading, LONGEST_RADII * radius, weak, true);
    if (!pass) return false;
    runs.push({ begin, points: simplifyLine(Float64Array.from(pass.points), options.tolerance) });
    here = [pass.points[pass.points.length - 2]!, pass.points[pass.points.length - 1]!];
    if (options.both) way = mirrored(way);
    return true;
  };
  const sideNow = (): 1 | -1 => (way === 1 ? options.side : mirrored(options.side));
  while (steel.areaLeft > 0) {
    const front: Front | undefined =
      (here && ways.nearest(here[0], here[1], sideNow())) ?? ways.anywhere(here?.[0] ?? 0, here?.[1] ?? 0, sideNow());
    if (front) {
      const begin: Begin = front.way ? { by: 'way', points: Float64Array.from(front.way) } : { by: 'air' };
      if (!run(begin, front.x, front.y, front.heading)) ways.ban(front.x, front.y, BAN_RADII * radius);
      continue;
    }
    const helix = widest(steel, options, ways);
    if (!helix) break;
    const { x, y, r } = helix;
    cutCircle(steel, x, y, r);
    ways.banHelix(x, y, r);
    const begin: Begin = { by: 'helix', x, y, radius: r, way: sideNow() };
    if (run(begin, x + r, y, (sideNow() * Math.PI) / 2)) continue;
    // the helix is there, though nothing could be cut from it
    runs.push({ begin, points: Float64Array.of(x + r, y) });
    here = [x + r, y];
  }
  for (const line of alongWall(steel, options)) {
    options.cancel?.check();
    const [x, y] = [line[0]!, line[1]!];
    const points = here && ways.to(x, y, here);
    runs.push({
      begin: points ? { by: 'way', points: Float64Array.from(points) } : { by: 'air' },
      points: simplifyLine(line, options.tolerance),
    });
    for (let k = 2; k < line.length; k += 2) steel.cut(line[k - 2]!, line[k - 1]!, line[k]!, line[k + 1]!, k > 2);
    here = [line[line.length - 2]!, line[line.length - 1]!];
  }
  return { runs, at: here };
}

/**
 * Stretches of the wall along which something is left between passes that began or ended there: thin, so that a cut along the
 * wall takes it with less load than asked for; where it would be more, it is left.
 */
function* alongWall(steel: LevelSteel, { axis, load, side, tolerance }: ClearingOptions): Generator<Float64Array> {
  const { grid, radius } = steel;
  for (const wall of joined(lineAt(grid, axis, 0))) {
    const line = evenly(facing(grid, axis, wall, side), grid.step, tolerance);
    let from = -1;
    const n = line.length / 2;
    const wanted = new Uint8Array(n);
    for (let k = 0; k < n; k++) {
      const m = Math.min(n - 1, k + 1);
      const b = m === k ? k - 1 : k;
      const dx = line[2 * (b + 1)]! - line[2 * b]!;
      const dy = line[2 * b + 3]! - line[2 * b + 1]!;
      const length = Math.hypot(dx, dy) || 1;
      const here = frontLoad(grid, steel.left, radius, line[2 * k]!, line[2 * k + 1]!, dx / length, dy / length);
      if (here > THIN_LOAD && here <= load) wanted[k] = 1;
    }
    // what lies close together is cut in one go
    let last = -Infinity;
    const gap = (GAP_RADII * radius) / grid.step;
    for (let k = 0; k <= n; k++) {
      if (k < n && wanted[k]) {
        if (from < 0) from = k;
        last = k;
      } else if (from >= 0 && (k === n || k - last > gap)) {
        // it is begun in air, wherever along the wall that is
        let a = from - 1;
        const least = Math.max(0, from - gap);
        while (a >= least && !steel.isJustAirAt(line[2 * a]!, line[2 * a + 1]!)) a--;
        const b = Math.min(n - 1, last + 2);
        if (a >= least) yield line.slice(2 * a, 2 * b + 2);
        from = -1;
      }
    }
  }
}

/** A wall's line in the direction that has the wall on the side of the steel. */
function facing(grid: PlanGrid, axis: Float32Array, line: Float64Array, side: 1 | -1): Polyline {
  const k = 2 * Math.floor(line.length / 4);
  const [x, y] = [(line[k - 2]! + line[k]!) / 2, (line[k - 1]! + line[k + 1]!) / 2];
  const [dx, dy] = [line[k]! - line[k - 2]!, line[k + 1]! - line[k - 1]!];
  const aside = (2 * grid.step) / (Math.hypot(dx, dy) || 1);
  const right = valueAt(grid, axis, x + aside * dy, y - aside * dx, -1);
  const left = valueAt(grid, axis, x - aside * dy, y + aside * dx, -1);
  return right < left === (side === 1) ? line : reversed(line);
}

/** A line with a place every `step` mm. */
function evenly(line: Polyline, step: number, tolerance: number): Float64Array {
  return Float64Array.from(alongOf(simplifyLine(line, tolerance), step).flat());
}

const mirrored = (way: 1 | -1): 1 | -1 => (way === 1 ? -1 : 1);

/** Lowers the steel where a helix ends. */
function cutCircle(steel: LevelSteel, x: number, y: number, r: number): void {
  const n = Math.max(12, Math.ceil((2 * Math.PI * r) / steel.grid.step));
  for (let k = 0; k < n; k++) {
    const [a, b] = [(2 * Math.PI * k) / n, (2 * Math.PI * (k + 1)) / n];
    steel.cut(x + r * Math.cos(a), y + r * Math.sin(a), x + r * Math.cos(b), y + r * Math.sin(b));
  }
}

/** The roomiest place in steel for a helix that nothing was begun from yet. */
function widest(
  { grid, left, radius }: LevelSteel,
  { axis, helix }: ClearingOptions,
  ways: AirWays,
): { x: number; y: number; r: number } | undefined {
  let best = -1;
  for (let o = 0; o < axis.length; o++)
    if (left[o]! > 0 && (best < 0 || axis[o]! > axis[best]!) && ways.mayBegin(o)) best = o;
  if (best < 0) return undefined;
  const room = axis[best]!;
  if (room < helix.least) return undefined;
  const i = best % grid.nx;
  return {
    x: grid.x0 + i * grid.step,
    y: grid.y0 + ((best - i) / grid.nx) * grid.step,
    r: Math.min(room, helix.most, WIDEST_HELIX * radius),
  };
}
