import type { BoundsTest } from '../../field/bounds';
import { Buried } from '../../field/buried';
import { TipSurface, type TipSurfaceSpec } from '../../field/tipSurface';
import { lengthOf, nearestOn, type Polyline } from '../../geometry/polygon';
import { alongOf, closedUp, startingNear } from '../../levels/loop';
import type { StepContext } from '../../link/context';
import type { Growing } from '../../link/workspace';
import { Motion } from '../../path/toolpath';
import type { WearSpan } from '../../path/wear';
import { slimmer } from '../../tool/profile';
import { slopeDown } from '../../tool/shape';
import { type Bridges, overBridges } from './bridges';
import { sharpened } from './corners';
import { leadIn, leadOut, type LeadValues } from './leads';
import type { ProfileValues } from './values';
import type { Wall } from './walls';

/** Leads are tried with these shares of their radius, the first that has room is taken. */
const RADIUS_SHARES = [1, 0.5, 0.25, 0.1];
/** Places along a closed line at which it may begin lie so many radii of the cutter apart, and are so many at most. */
const BEGIN_RADII = 0.5;
const MOST_BEGINS = 80;
/** An open line that begins beside steel is begun farther off, so many radii of the cutter. */
const FARTHER_RADII = [0, 0.25, 0.5, 1, 1.5];
/** A way is looked at this often, mm. */
const LOOK_MM = 0.3;
/** What rounding may have a cutter in an upright wall, mm. */
const ROUNDING_MM = 2e-3;
/** Steel is looked for over the edge of the cutter by so many cells. */
const OVER_CELLS = 1.5;
/** A closed line where the cutter cannot go down beside it is gone down along at this angle, degrees (common practice). */
const HOUSE_RAMP_DEG = 2;
/** Bridges rise at this angle unless the step tells one, degrees (common practice). */
export const BRIDGE_DEG = 10;

type Place = readonly [x: number, y: number];

/** A line from where it is begun, with the ways to it and from it. */
interface Begun {
  readonly line: Polyline;
  readonly before: readonly Place[];
  readonly after: readonly Place[];
}

/** Cuts walls one depth after another. */
export class WallCutter {
  private readonly slim: TipSurface;
  private readonly buried: Buried;
  private readonly radius: number;
  /** From walls to the axis. */
  private readonly reach: number;

  constructor(
    private readonly context: Pick<StepContext, 'tool' | 'steel'>,
    private readonly growing: Growing,
    private readonly bounds: BoundsTest,
    spec: TipSurfaceSpec,
    private readonly values: ProfileValues,
    mostSteel: number,
  ) {
    // along an upright wall the chords of the line would have the cutter on top of it
    this.slim = new TipSurface({ ...spec, piece: slimmer(spec.piece, values.tolerance + ROUNDING_MM) });
    this.buried = new Buried(context.steel, spec.piece, mostSteel);
    this.radius = spec.piece.radius;
    this.reach = spec.piece.radius + spec.side;
  }

  /** A wall with its sharp outer corners as they are asked for. */
  cornered(wall: Wall): Wall {
    const { corners, direction } = this.values;
    if (corners === 'rolled' || !wall.closed) return wall;
    const isFree = (ax: number, ay: number, bx: number, by: number): boolean =>
      alongOf(Float64Array.of(ax, ay, bx, by), LOOK_MM).every(
        ([x, y]) => this.isFree(x, y, wall.bottom) && !this.buried.at(x, y, wall.bottom),
      ) && this.isFree(bx, by, wall.bottom);
    const turn = direction === 'climb' ? -1 : 1;
    return { ...wall, points: sharpened(wall.points, this.reach, turn, isFree) };
  }

  /**
   * Cuts a wall down to its foot.
   *
   * @param times how often it goes along at each depth
   * @param wear takes the stretches on which the control is to compensate
   * @returns why it does not, in words
   */
  cut(wall: Wall, times: number, bridges: Bridges | undefined, wear: WearSpan[]): string | undefined {
    const { ap, rampDeg } = this.values;
    const top = Math.min(wall.top, this.steelAlong(wall));
    const depth = Math.max(0, top - wall.bottom);
    const n = Math.max(1, Math.ceil(depth / ap - 1e-9));
    const line = this.begin(wall);
    if (typeof line === 'string') return line;
    if (this.values.wear === 'control' && line.before.length === 0)
      return 'there is no room beside it for the straight on which the control takes wear in';
    if (wall.closed && rampDeg !== null && depth > 0) {
      const slope = slopeDown(rampDeg, this.context.tool);
      this.compensated(line, top, wear, () => this.roundAndRound(line, wall, top, slope, times, bridges));
      return undefined;
    }
    if (line.before.length === 0 && !this.isClearAt(line.line[0]!, line.line[1]!, wall.bottom)) {
      // nothing beside it is clear of steel
      const slope = slopeDown(HOUSE_RAMP_DEG, this.context.tool);
      if (wall.closed)
        this.compensated(line, top, wear, () => this.roundAndRound(line, wall, top, slope, times, bridges));
      else return 'there is no way down beside it';
      return undefined;
    }
    for (let k = 1; k <= n; k++) {
      const z = k === n ? wall.bottom : top - (depth * k) / n;
      for (let time = 0; time < times; time++) this.compensated(line, z, wear, () => this.along(line, z, bridges));
    }
    return undefined;
  }

  /** Goes to where a wall is begun at a height, and along it; tells where the control compensates. */
  private compensated({ line, before }: Begun, z: number, wear: WearSpan[], go: () => void): void {
    const { path } = this.growing;
    this.goTo(before[0] ?? [line[0]!, line[1]!], z);
    const first = path.length;
    go();
    if (this.values.wear === 'control')
      wear.push({ first, end: path.length, side: this.values.direction === 'climb' ? 'left' : 'right' });
  }

  /** Whether the axis may be at a place, to within the tolerance of lines. */
  private isFree(x: number, y: number, z: number): boolean {
    return !this.slim.forbids(x, y, z) && !this.bounds.forbids(x, y, z);
  }

  private isClearAt(x: number, y: number, z: number): boolean {
    return this.growing.travel.isClear(x, y, z);
  }

  /** Height of the steel that is cut along a wall, mm. */
  private steelAlong({ points, closed }: Wall): number {
    const { travel } = this.growing;
    const reach = this.radius + OVER_CELLS * travel.steel.cell;
    let top = -Infinity;
    const line = closed ? closedUp(points) : points;
    for (const [x, y] of [...alongOf(line, this.radius), lastOf(line)])
      top = Math.max(top, travel.topWithin(x, y, reach));
    return top;
  }

  /** Where a wall is begun; or why it cannot be. */
  private begin(wall: Wall): Begun | string {
    const { values } = this;
    const z = wall.bottom;
    const lines = wall.closed ? this.beginnings(wall) : this.lengthened(wall);
    const ways = (radius: number, straight: number) => ({
      radius,
      straight,
      tolerance: values.tolerance,
      isFreeLeft: values.direction === 'climb',
    });
    const radii = values.leadRadius > 0 ? RADIUS_SHARES.map((s) => s * values.leadRadius) : [0];
    const [first] = lines;
    for (const radius of radii)
      for (const line of lines) {
        const led = this.led(line, ways(radius, values.leadLength), z);
        if (led && this.isClearAt(...led.before[0]!, z)) return led;
      }
    // round and round a closed one is easier on the cutter
    if (!wall.closed && this.context.tool.centreCutting)
      for (const radius of radii)
        for (const line of lines) {
          const led = this.led(line, ways(radius, values.leadLength), z);
          if (led && !this.buried.at(...led.before[0]!, z)) return led;
        }
    return first ? { line: first, before: [], after: [] } : 'it is too short';
  }

  /** A line with its leads, where there is room for both. */
  private led(line: Polyline, lead: LeadValues, z: number): Begun | undefined {
    const before = leadIn(line, lead);
    const after = leadOut(line, lead);
    if (before.length === 0) return undefined;
    const isOpen = (way: readonly Place[]): boolean =>
      alongOf(Float64Array.from(way.flat()), LOOK_MM).every(([x, y]) => this.isFree(x, y, z)) &&
      this.isFree(...way[0]!, z) &&
      this.isFree(...way.at(-1)!, z);
    return isOpen(before) && isOpen(after) ? { line, before, after } : undefined;
  }

  /** A closed line from several of its places, the middles of straights and near ones first, each going on past its beginning. */
  private beginnings({ points }: Wall): Polyline[] {
    const at = this.growing.path.last;
    const ring = closedUp(points);
    const apart = Math.max(BEGIN_RADII * this.radius, lengthOf(ring) / MOST_BEGINS);
    const room = Math.max(this.values.leadRadius, this.values.overlap);
    const places = [
      ...alongOf(ring, apart),
      ...ringEdges(ring).map(([ax, ay, bx, by]): [number, number] => [(ax + bx) / 2, (ay + by) / 2]),
    ];
    return places
      .map(([x, y]) => {
        const k = nearestOn(ring, x, y, false).piece;
        const [ax, ay, bx, by] = [ring[2 * k]!, ring[2 * k + 1]!, ring[2 * k + 2]!, ring[2 * k + 3]!];
        const beside = Math.min(Math.hypot(x - ax, y - ay), Math.hypot(x - bx, y - by));
        return { x, y, straight: Math.min(room, beside), away: at ? Math.hypot(x - at[0], y - at[1]) : 0 };
      })
      .sort((a, b) => b.straight - a.straight || a.away - b.away)
      .slice(0, MOST_BEGINS)
      .map(({ x, y }) => goneOn(startingNear({ points, closed: true }, x, y), this.values.overlap));
  }

  /** An open line beyond both its ends, by as little as may be first. */
  private lengthened(wall: Wall): Polyline[] {
    const { overlap } = this.values;
    return FARTHER_RADII.map((radii) => this.extended(wall, overlap + radii * this.radius));
  }

  /** An open line beyond both its ends, where the axis may go there and meets no more steel than it may. */
  private extended({ points, bottom }: Wall, overlap: number): Polyline {
    const n = points.length;
    if (overlap === 0 || n < 4) return points;
    const beyond = (k: number, from: number): number[] => {
      const [x, y] = [points[k]!, points[k + 1]!];
      const [dx, dy] = [x - points[from]!, y - points[from + 1]!];
      const length = Math.hypot(dx, dy) || 1;
      const [ex, ey] = [x + (overlap * dx) / length, y + (overlap * dy) / length];
      const isOpen = alongOf(Float64Array.of(x, y, ex, ey), LOOK_MM).every(([px, py]) => this.isFree(px, py, bottom));
      return isOpen && this.isFree(ex, ey, bottom) && !this.buried.at(ex, ey, bottom) ? [ex, ey] : [];
    };
    return Float64Array.from([...beyond(0, 2), ...points, ...beyond(n - 2, n - 4)]);
  }

  /** Once along a line at a depth. */
  private along({ line, before, after }: Begun, z: number, bridges: Bridges | undefined): void {
    this.feedThrough([...before.slice(1), [line[0]!, line[1]!]], z, Motion.entry);
    this.feedOver(overBridges(line, bridges, () => z));
    this.feedThrough(after, z, Motion.exit);
  }

  /** Down along a closed line, then once round on its foot. */
  private roundAndRound(
    { line, before, after }: Begun,
    { points, bottom }: Wall,
    top: number,
    slope: number,
    times: number,
    bridges: Bridges | undefined,
  ): void {
    const ring = startingNear({ points, closed: true }, line[0]!, line[1]!);
    const round = lengthOf(ring);
    const rounds = Math.ceil((top - bottom) / Math.min(this.values.ap, slope * round) - 1e-9);
    this.feedThrough([...before.slice(1), [line[0]!, line[1]!]], top, Motion.entry);
    for (let k = 0; k < rounds; k++) {
      const [from, to] = [top - ((top - bottom) * k) / rounds, top - ((top - bottom) * (k + 1)) / rounds];
      this.feedOver(overBridges(ring, bridges, (s, whole) => from + ((to - from) * s) / whole));
    }
    for (let time = 1; time < times; time++) this.feedOver(overBridges(ring, bridges, () => bottom));
    this.feedOver(overBridges(line, bridges, () => bottom));
    this.feedThrough(after, bottom, Motion.exit);
  }

  /** To a place at a depth: at the height where the tool is when nothing is in the way, else above the steel. */
  private goTo([x, y]: Place, z: number): void {
    const { path, travel } = this.growing;
    const at = path.last;
    if (at && at[2] >= z && Math.hypot(x - at[0], y - at[1]) <= 4 * this.radius) {
      const way: Place[] = [...alongOf(Float64Array.of(at[0], at[1], x, y), LOOK_MM), [x, y]];
      if (way.every(([px, py]) => this.isFree(px, py, at[2]) && this.isClearAt(px, py, at[2]))) {
        travel.feed(x, y, at[2], Motion.link);
        travel.feed(x, y, z, Motion.entry);
        return;
      }
    }
    travel.crossTo(x, y, z);
    travel.feed(x, y, z, Motion.entry);
  }

  private feedThrough(places: readonly Place[], z: number, kind: Motion): void {
    for (const [x, y] of places) this.growing.travel.feed(x, y, z, kind);
  }

  private feedOver(xyz: readonly number[]): void {
    for (let k = 0; k < xyz.length; k += 3) this.growing.travel.feed(xyz[k]!, xyz[k + 1]!, xyz[k + 2]!, Motion.cut);
  }
}

/** A line that ends where it begins, and goes on from there by a length, mm. */
function goneOn(line: Polyline, length: number): Polyline {
  const out = [...line];
  let left = Math.min(length, 0.9 * lengthOf(line));
  for (let k = 2; k < line.length && left > 1e-6; k += 2) {
    const [dx, dy] = [line[k]! - line[k - 2]!, line[k + 1]! - line[k - 1]!];
    const piece = Math.hypot(dx, dy);
    const share = piece > left ? left / piece : 1;
    out.push(line[k - 2]! + share * dx, line[k - 1]! + share * dy);
    left -= piece;
  }
  return Float64Array.from(out);
}

function ringEdges(line: Polyline): [number, number, number, number][] {
  const out: [number, number, number, number][] = [];
  for (let k = 2; k < line.length; k += 2) out.push([line[k - 2]!, line[k - 1]!, line[k]!, line[k + 1]!]);
  return out;
}

const lastOf = (line: Polyline): [number, number] => [line.at(-2)!, line.at(-1)!];
