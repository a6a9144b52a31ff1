import { areaOf, boundsOf, nearestOn, type Polyline, type Region, regionContains } from '../../geometry/polygon';
import { Motion, type PathBuilder } from '../../path/toolpath';
import type { Travel } from '../../path/travel';
import type { TipSurface } from '../../region/tipSurface';
import type { LeftOut } from '../kind';
import type { LevelLoops, Loop, Nest } from './loops';

/** Places along a link, a helix or a ramp where it is asked whether the cutter may be there, mm apart. */
const LOOK_MM = 0.3;
/** This near to its end a link may be on a level curve, within that curve's own tolerance, mm. */
const ON_CURVE_MM = 0.05;
/**
 * Steel higher than the level above by more than this and the corner radius (ridges between lines may be that high), as
 * far inside the cutter's radius, was left out up there, mm.
 */
const TALLER_MM = 0.5;
const INSIDE_RIM_MM = 1.5;
/** A link through steel is at most this many side steps long. */
const FARTHEST_LINK = 1.6;
/** Angle between points of a helix, rad: 10 degrees; chords leave the circle inward by 0.004 of its radius. */
const HELIX_STEP = Math.PI / 18;
/** Room wanted between a helix and the wall, so that what the level above cleared surely covers it, mm. */
const HELIX_ROOM_MM = 1;
/** Largest and smallest helix radius as a share of DC. */
const WIDEST_HELIX = 0.4;

export interface CuttingValues {
  ae: number;
  rampAngleDeg: number;
  /** Smallest width of a closed opening that is entered, mm. */
  smallestOpening: number;
}

/** Turns the lines of the levels into motions: inner areas first, each entered through air, from a cut line, or by helix. */
export class LevelCutter {
  readonly leftOut: LeftOut[] = [];
  private readonly diameter: number;
  private z = 0;
  private above = 0;
  /** Lines already cut at this level. */
  private cut: Loop[] = [];

  constructor(
    private readonly path: PathBuilder,
    private readonly travel: Travel,
    private readonly surface: TipSurface,
    private readonly cutter: { radius: number; corner: number },
    private readonly values: CuttingValues,
  ) {
    this.diameter = 2 * cutter.radius;
  }

  level(loops: LevelLoops, above: number): void {
    this.z = loops.z;
    this.above = above;
    this.cut = [];
    const waiting = [...loops.nests];
    while (waiting.length > 0) this.nest(takeNearest(waiting, (n) => this.distanceTo(n.region.outer)));
  }

  private nest(nest: Nest): void {
    const waiting = [...nest.inner];
    while (waiting.length > 0) this.nest(takeNearest(waiting, (n) => this.distanceTo(n.region.outer)));
    const loops = [...nest.loops];
    while (loops.length > 0)
      this.loop(
        takeNearest(loops, (l) => this.distanceTo(l.points)),
        nest,
      );
  }

  private distanceTo(line: Polyline): number {
    const at = this.path.last;
    return at ? nearestOn(line, at[0], at[1], true).distance : 0;
  }

  private loop(loop: Loop, nest: Nest): void {
    if (this.isBuried(loop)) {
      this.leaveOut('Steel left at a level above stands over it', loop);
      return;
    }
    const points = this.enter(loop, nest);
    if (!points) return;
    for (let k = 0; k < points.length; k += 2) this.travel.feed(points[k]!, points[k + 1]!, this.z, Motion.cut);
    this.cut.push(loop);
  }

  /** Brings the cutter to the line's start at this level; gives the line from there, or undefined when it cannot. */
  private enter(loop: Loop, nest: Nest): Polyline | undefined {
    const at = this.path.last;
    if (at && Math.abs(at[2] - this.z) < 1e-9) {
      const line = startingNear(loop, at[0], at[1]);
      if (this.canLink(at[0], at[1], line[0]!, line[1]!)) {
        this.travel.feed(line[0]!, line[1]!, this.z, Motion.link);
        return line;
      }
    }
    return this.enterThroughAir(loop) ?? this.enterBesideCut(loop) ?? this.enterByHelix(loop, nest);
  }

  private canLink(ax: number, ay: number, bx: number, by: number): boolean {
    const length = Math.hypot(bx - ax, by - ay);
    if (length > FARTHEST_LINK * this.values.ae && !this.isClearAlong(ax, ay, bx, by, length)) return false;
    return length < 8 * this.diameter && this.isAllowedAlong(ax, ay, bx, by, length);
  }

  /** Whether the axis may run straight from a to b. The ends may lie on a wall's curve, where rounding would decide. */
  private isAllowedAlong(ax: number, ay: number, bx: number, by: number, length: number): boolean {
    if (length <= 2 * ON_CURVE_MM) return true;
    const n = Math.max(1, Math.ceil(length / LOOK_MM));
    for (let k = 0; k <= n; k++) {
      const t = (ON_CURVE_MM + ((length - 2 * ON_CURVE_MM) * k) / n) / length;
      if (this.surface.forbids(ax + (bx - ax) * t, ay + (by - ay) * t, this.z)) return false;
    }
    return true;
  }

  private isClearAlong(ax: number, ay: number, bx: number, by: number, length: number): boolean {
    const n = Math.max(1, Math.ceil(length / (this.diameter / 8)));
    for (let k = 0; k <= n; k++)
      if (!this.travel.isClear(ax + ((bx - ax) * k) / n, ay + ((by - ay) * k) / n, this.z)) return false;
    return true;
  }

  private enterThroughAir(loop: Loop): Polyline | undefined {
    const p = loop.points;
    for (let k = 0; k < (loop.closed ? p.length : 2); k += 2)
      if (this.travel.isClear(p[k]!, p[k + 1]!, this.z)) {
        this.descend(p[k]!, p[k + 1]!);
        return startingAt(loop, k / 2);
      }
    return undefined;
  }

  /** Down where a neighbouring line has been cut, then sideways. */
  private enterBesideCut(loop: Loop): Polyline | undefined {
    const p = loop.points;
    let best = { distance: FARTHEST_LINK * this.values.ae, at: -1, x: 0, y: 0 };
    const nearby = this.cut.filter((done) => boxesMeet(done.points, p, best.distance));
    // neighbouring lines lie one side step apart: no need to look on once that is found
    const good = 1.02 * this.values.ae;
    for (let k = 0; k < (loop.closed ? p.length : 2) && best.distance > good; k += 2)
      for (const done of nearby) {
        const near = nearestOn(done.points, p[k]!, p[k + 1]!, done.closed);
        if (near.distance < best.distance) best = { distance: near.distance, at: k, x: near.x, y: near.y };
      }
    if (best.at < 0) return undefined;
    const x = p[best.at]!;
    const y = p[best.at + 1]!;
    if (!this.isAllowedAlong(best.x, best.y, x, y, best.distance)) return undefined;
    this.descend(best.x, best.y);
    this.travel.feed(x, y, this.z, Motion.link);
    return startingAt(loop, best.at / 2);
  }

  private descend(x: number, y: number): void {
    this.travel.crossTo(x, y, this.z);
    this.travel.feed(x, y, this.z, Motion.entry);
  }

  private enterByHelix(loop: Loop, nest: Nest): Polyline | undefined {
    const smallest = Math.max(0.05 * this.diameter, (this.values.smallestOpening - this.diameter) / 2);
    const places = helixPlaces(loop, nest);
    for (const room of [HELIX_ROOM_MM, 0])
      for (const [x, y] of places)
        for (let r = WIDEST_HELIX * this.diameter; r >= smallest * 0.999; r *= 0.8) {
          if (!this.helixFits(x, y, r + room)) continue;
          const line = startingNear(loop, x, y);
          const length = Math.hypot(line[0]! - x, line[1]! - y);
          if (!this.isAllowedAlong(x, y, line[0]!, line[1]!, length)) continue;
          this.helix(x, y, r);
          this.travel.feed(line[0]!, line[1]!, this.z, Motion.entry);
          return line;
        }
    this.leaveOut(
      `Opening narrower than ${this.values.smallestOpening.toFixed(1)} mm, or no way in`,
      loop,
      loop.closed ? Math.abs(areaOf(nest.region.outer)) * (this.above - this.z) : undefined,
    );
    return undefined;
  }

  /** Whether steel stands higher over a line than one level: a place that could not be entered further up. */
  private isBuried(loop: Loop): boolean {
    const p = loop.points;
    const radius = Math.max(this.diameter / 8, this.diameter / 2 - INSIDE_RIM_MM);
    const highest = this.above + this.cutter.corner + TALLER_MM;
    for (let k = 0; k < p.length; k += 2) if (this.travel.highestAt(p[k]!, p[k + 1]!, radius) > highest) return true;
    return false;
  }

  private leaveOut(why: string, loop: Loop, volume?: number): void {
    this.leftOut.push({
      why,
      x: loop.points[0]!,
      y: loop.points[1]!,
      z: this.z,
      ...(volume === undefined ? {} : { volume }),
    });
  }

  private helixFits(x: number, y: number, r: number): boolean {
    if (this.surface.forbids(x, y, this.z)) return false;
    const n = Math.max(24, Math.ceil((2 * Math.PI * r) / LOOK_MM));
    for (let k = 0; k < n; k++) {
      const a = (2 * Math.PI * k) / n;
      if (this.surface.forbids(x + r * Math.cos(a), y + r * Math.sin(a), this.z)) return false;
    }
    return true;
  }

  /** Down in a helix (counter-clockwise: climb inside), then once round at the level. */
  private helix(x: number, y: number, r: number): void {
    const top = this.travel.startHeight(x, y, r + this.diameter / 2);
    this.travel.crossTo(x + r, y, this.z, r + this.diameter / 2);
    const fall = r * HELIX_STEP * Math.tan((this.values.rampAngleDeg * Math.PI) / 180);
    const turns = Math.ceil(Math.max(0, top - this.z) / fall);
    const lastRound = Math.round((2 * Math.PI) / HELIX_STEP);
    for (let k = 1; k <= turns + lastRound; k++) {
      const a = k * HELIX_STEP;
      this.travel.feed(
        x + r * Math.cos(a),
        y + r * Math.sin(a),
        k <= turns ? top - ((top - this.z) * k) / turns : this.z,
        Motion.entry,
      );
    }
  }
}

/** Whether the boxes around two lines come within `room` mm of each other. */
function boxesMeet(a: Polyline, b: Polyline, room: number): boolean {
  const [p, q] = [boundsOf(a), boundsOf(b)];
  return p[0] <= q[2] + room && q[0] <= p[2] + room && p[1] <= q[3] + room && q[1] <= p[3] + room;
}

function takeNearest<T>(from: T[], distance: (item: T) => number): T {
  let best = 0;
  let least = Infinity;
  from.forEach((item, i) => {
    const d = distance(item);
    if (d < least) {
      least = d;
      best = i;
    }
  });
  return from.splice(best, 1)[0]!;
}

function startingAt(loop: Loop, k: number): Polyline {
  if (!loop.closed) return loop.points;
  const p = loop.points;
  const out = new Float64Array(p.length + 2);
  out.set(p.subarray(2 * k));
  out.set(p.subarray(0, 2 * k), p.length - 2 * k);
  out[p.length] = p[2 * k]!;
  out[p.length + 1] = p[2 * k + 1]!;
  return out;
}

/** A closed line beginning at its place nearest to (x, y); an open one as it is. */
function startingNear(loop: Loop, x: number, y: number): Polyline {
  if (!loop.closed) return loop.points;
  const near = nearestOn(loop.points, x, y, true);
  const from = startingAt(loop, (near.piece + 1) % (loop.points.length / 2));
  const out = new Float64Array(from.length + 2);
  out[0] = near.x;
  out[1] = near.y;
  out.set(from.subarray(0, from.length - 2), 2);
  out[from.length] = near.x;
  out[from.length + 1] = near.y;
  return out;
}

/** Places to try a helix at: the roomiest point inside the area first, then points along the line. */
function helixPlaces(loop: Loop, nest: Nest): [number, number][] {
  const places: [number, number][] = [];
  const roomy = roomiest(nest.region);
  if (roomy) places.push(roomy);
  const p = loop.points;
  const step = Math.max(2, 2 * Math.floor(p.length / 2 / 12));
  for (let k = 0; k < p.length; k += step) places.push([p[k]!, p[k + 1]!]);
  return places;
}

/** A point inside a region far from its borders: the best of a grid, then refined twice around it. */
export function roomiest(region: Region): [number, number] | undefined {
  const [minX, minY, maxX, maxY] = boundsOf(region.outer);
  let best: [number, number] | undefined;
  let room = 0;
  let [cx, cy, half] = [(minX + maxX) / 2, (minY + maxY) / 2, Math.max(maxX - minX, maxY - minY) / 2];
  for (let round = 0; round < 3; round++) {
    for (let j = -6; j <= 6; j++)
      for (let i = -6; i <= 6; i++) {
        const x = cx + (i * half) / 6;
        const y = cy + (j * half) / 6;
        if (!regionContains(region, x, y)) continue;
        const d = Math.min(...[region.outer, ...region.holes].map((ring) => nearestOn(ring, x, y, true).distance));
        if (d > room) {
          room = d;
          best = [x, y];
        }
      }
    if (best) [cx, cy] = best;
    half /= 6;
  }
  return best;
}
