import { boundsOf, nearestOn, type Polyline } from '../geometry/polygon';
import { SegmentIndex } from '../geometry/segmentIndex';
import { Motion, type PathBuilder } from '../path/toolpath';
import type { Travel } from '../link/travel';
import type { LeftOut, StepContext } from '../link/context';
import { Entries, type EntryCutter, type EntryValues, type Forbids } from './entries';
import type { Level } from './heights';
import { alongOf, closedUp, type Loop, type Nest, startingAt, startingNear } from './loop';

/**
 * Steel higher than the level above by more than this and the corner radius (ridges between lines may be that high), as
 * far inside the cutter's radius, was left out up there, mm.
 */
const TALLER_MM = 0.5;
const INSIDE_RIM_MM = 1.5;
/** A link through steel is at most this many side steps long. */
const FARTHEST_LINK = 1.6;
/** An open line may be begun from a cut line that is this many side steps away: at a slanting wall it begins beyond it. */
const FARTHEST_TO_LINE = 3;
/** Air beside a line is looked for this many radii away, in so many directions, from so many of its points, mm from steel. */
const BESIDE_AT = [1, 1.5, 2];
const BESIDE_TURN = Math.PI / 6;
const BESIDE_ROOM_MM = 0.6;
const STARTS_TRIED = 12;
/** A way of more diameters than this is crossed at rapid rate instead. */
const LONGEST_LINK = 3;
/** Back-moves at a level longer than this many side steps are lifted. */
const LIFTED_FROM = 2;
/** Angle between points of an arc, rad. */
const ARC_STEP = Math.PI / 12;
/** This near to its line an arc may be on a level curve, within that curve's own tolerance, mm. */
const ON_LINE_MM = 0.05;

export interface CuttingValues extends EntryValues {
  ae: number;
  /** Radius of the arcs by which lines are met and left, mm; 0 for none. */
  leadRadius: number;
}

/** Heights this near to each other are one, mm. */
const SAME_MM = 1e-9;

/** Turns the lines of the levels into motions: inner areas first, each entered through air, from a cut line, or from above. */
export class LevelCutter {
  readonly leftOut: LeftOut[] = [];
  private readonly diameter: number;
  /** Steel that stands above a cleared floor this far inside the cutter was left out there, mm. */
  private readonly middle: number;
  private readonly entries: Entries;
  private z = 0;
  private above = 0;
  /** Steel higher than this over a line is left, mm. */
  private tallest = 0;
  /** Lines cut since the last level was begun, with their heights. */
  private cut: { line: Loop; z: number }[] = [];
  /** Cells of which the steel over a level was told already. */
  private told = { z: NaN, cells: new Set<number>() };
  /** Lines that nothing led to so far. */
  private readonly waiting: Loop[] = [];

  constructor(
    private readonly path: PathBuilder,
    private readonly travel: Travel,
    forbids: Forbids,
    private readonly cutter: { radius: number; corner: number } & Pick<EntryCutter, 'RMPX' | 'DMIN'>,
    private readonly values: CuttingValues,
    drilled: StepContext['drilled'] = [],
  ) {
    this.diameter = 2 * cutter.radius;
    this.middle = Math.max(this.diameter / 8, cutter.radius - INSIDE_RIM_MM);
    const { radius, corner, RMPX, DMIN } = cutter;
    const aside = Math.min(corner, Math.max(0, values.ae / 2 - (radius - corner)));
    const ridge = TALLER_MM + corner - Math.sqrt(corner * corner - aside * aside);
    this.entries = new Entries(
      travel,
      forbids,
      { diameter: this.diameter, middle: this.middle, ridge, rim: TALLER_MM + corner, RMPX, DMIN },
      values,
      drilled,
    );
  }

  /** Cuts areas of a level. */
  level(level: Level, nests: readonly Nest[]): void {
    this.cut = [];
    this.at(level, nests);
  }

  /** Cuts areas of a height between a level and the one above it: what was cut lower down is a way in. */
  between({ above }: Level, z: number, nests: readonly Nest[]): void {
    this.at({ z, above }, nests);
  }

  private at({ z, above, tallest }: Level, nests: readonly Nest[]): void {
    this.z = z;
    this.above = above;
    this.tallest = tallest ?? above + this.cutter.corner + TALLER_MM;
    this.allOf(nests);
    // what could not be entered before its surroundings were cut
    for (const loop of this.waiting.splice(0)) {
      const points = this.enterThroughAir(loop) ?? this.enterBesideCut(loop);
      if (points) this.run(loop, points);
      else
        this.leaveOut(
          this.whyNotEntered(`Opening narrower than ${this.values.smallestOpening.toFixed(1)} mm, or no way in`),
          loop,
        );
    }
  }

  private allOf(nests: readonly Nest[]): void {
    const waiting = [...nests];
    while (waiting.length > 0) this.nest(this.takeNext(waiting));
  }

  /** Takes the area nearest to where the cutter is out of several. */
  takeNext(waiting: Nest[]): Nest {
    return takeNearest(waiting, (n) => this.distanceTo(n.region.outer));
  }

  private nest(nest: Nest): void {
    if (!nest.borderFirst) this.allOf(nest.inner);
    for (const line of nest.relief ?? []) this.loop(line, nest);
    const loops = [...nest.loops];
    while (loops.length > 0)
      this.loop(nest.inOrder ? loops.shift()! : takeNearest(loops, (l) => this.distanceTo(l.points)), nest);
    if (nest.borderFirst) this.allOf(nest.inner);
  }

  private distanceTo(line: Polyline): number {
    const at = this.path.last;
    return at ? nearestOn(line, at[0], at[1], true).distance : 0;
  }

  private loop(loop: Loop, nest: Nest): void {
    if (this.isBuried(loop)) {
      if (loop.easing) return;
      this.leaveOut(this.whyNotEntered('Steel left at a level above stands over it'), loop);
      return;
    }
    const points = this.enter(loop, nest);
    if (points) this.run(loop, points);
    else if (!loop.easing) this.waiting.push(loop);
  }

  private run(loop: Loop, points: Polyline): void {
    for (let k = 0; k < points.length; k += 2) this.travel.feed(points[k]!, points[k + 1]!, this.z, Motion.cut);
    if (loop.closed) this.leaveByArc(points);
    this.cut.push({ line: loop, z: this.z });
  }

  /** Brings the cutter to the line's start at this level; gives the line from there, or undefined when it cannot. */
  private enter(loop: Loop, nest: Nest): Polyline | undefined {
    const at = this.path.last;
    if (at && Math.abs(at[2] - this.z) < SAME_MM) {
      const line = startingNear(loop, at[0], at[1]);
      if (this.linkTo(line, loop.closed)) return line;
    }
    const beside = this.enterThroughAir(loop) ?? this.enterBesideCut(loop) ?? this.enterFromOutside(loop);
    return beside || loop.easing ? beside : this.enterFromAbove(loop, nest);
  }

  /** Stays at the level on the way to a line, meeting a closed one by an arc. */
  private linkTo(line: Polyline, closed: boolean): boolean {
    const at = this.path.last!;
    const [x, y] = [line[0]!, line[1]!];
    const arc = closed ? this.leadIn(line) : [];
    const [sx, sy] = arc.length > 0 ? [arc[0]!, arc[1]!] : [x, y];
    if (arc.length > 0 && this.canLink(at[0], at[1], sx, sy)) {
      this.link(sx, sy);
      for (let k = 2; k < arc.length; k += 2) this.travel.feed(arc[k]!, arc[k + 1]!, this.z, Motion.link);
      return true;
    }
    if (!this.canLink(at[0], at[1], x, y)) return false;
    this.link(x, y);
    return true;
  }

  private link(x: number, y: number): void {
    const at = this.path.last!;
    const length = Math.hypot(x - at[0], y - at[1]);
    this.travel.linkTo(x, y, length > LIFTED_FROM * this.values.ae ? this.values.lift : 0);
  }

  /**
   * Points of a quarter circle that meets the line's start tangentially from the side that is cut already: the left of the
   * line in climb milling, its right otherwise. Empty when there is no room for it.
   */
  private leadIn(line: Polyline): number[] {
    return this.quarter(line[0]!, line[1]!, line[2]! - line[0]!, line[3]! - line[1]!, -1);
  }

  private leaveByArc(line: Polyline): void {
    const n = line.length;
    const arc = this.quarter(line[n - 2]!, line[n - 1]!, line[n - 2]! - line[n - 4]!, line[n - 1]! - line[n - 3]!, 1);
    for (let k = 2; k < arc.length; k += 2) this.travel.feed(arc[k]!, arc[k + 1]!, this.z, Motion.link);
  }

  /** A quarter circle tangential to (dx, dy) at (x, y): before it (way -1, ending there) or after it (way 1, beginning there). */
  private quarter(x: number, y: number, dx: number, dy: number, way: 1 | -1): number[] {
    const r = this.values.leadRadius;
    const length = Math.hypot(dx, dy);
    if (r <= 0 || length === 0) return [];
    const [ux, uy] = [dx / length, dy / length];
    const side = this.values.direction === 'conventional' ? -1 : 1;
    const [cx, cy] = [x - side * r * uy, y + side * r * ux];
    const steps = Math.round(Math.PI / 2 / ARC_STEP);
    const points: number[] = [];
    for (let k = 0; k <= steps; k++) {
      const a = ((way < 0 ? steps - k : k) / steps) * (Math.PI / 2);
      const px = cx + side * r * uy * Math.cos(a) + way * r * ux * Math.sin(a);
      const py = cy - side * r * ux * Math.cos(a) + way * r * uy * Math.sin(a);
      if (Math.hypot(px - x, py - y) > ON_LINE_MM && !this.entries.isFree(px, py, this.z)) return [];
      points.push(px, py);
    }
    return points;
  }

  private canLink(ax: number, ay: number, bx: number, by: number): boolean {
    const length = Math.hypot(bx - ax, by - ay);
    if (length > FARTHEST_LINK * this.values.ae && !this.isClearAlong(ax, ay, bx, by, length)) return false;
    const longest = this.travel.gap ?? LONGEST_LINK * this.diameter;
    return length < longest && this.entries.isAllowedAlong(ax, ay, bx, by, this.z);
  }

  private isClearAlong(ax: number, ay: number, bx: number, by: number, length: number): boolean {
    const n = Math.max(1, Math.ceil(length / (this.diameter / 8)));
    for (let k = 0; k <= n; k++)
      if (!this.travel.isClear(ax + ((bx - ax) * k) / n, ay + ((by - ay) * k) / n, this.z)) return false;
    return true;
  }

  private enterThroughAir(loop: Loop): Polyline | undefined {
    const p = loop.points;
    const n = p.length;
    const starts = loop.closed ? Array.from({ length: n / 2 }, (_, k) => 2 * k) : loop.either ? [0, n - 2] : [0];
    for (const k of starts)
      if (this.travel.isClear(p[k]!, p[k + 1]!, this.z)) {
        this.entries.descend(p[k]!, p[k + 1]!, this.z);
        return startingAt(loop, k / 2);
      }
    return undefined;
  }

  /** Down in air beside the line, where there is such a place near it, then sideways into the steel. */
  private enterFromOutside(loop: Loop): Polyline | undefined {
    const p = loop.points;
    const n = p.length;
    const { radius } = this.cutter;
    const step = loop.closed ? Math.max(2, 2 * Math.floor(n / 2 / STARTS_TRIED)) : n;
    for (const far of BESIDE_AT)
      for (let k = 0; k < n; k += step)
        for (let a = 0; a < 2 * Math.PI; a += BESIDE_TURN) {
          const x = p[k]! + far * radius * Math.cos(a);
          const y = p[k + 1]! + far * radius * Math.sin(a);
          if (this.travel.standsAbove(this.z, x, y, radius + BESIDE_ROOM_MM)) continue;
          if (!this.entries.isAllowedAlong(x, y, p[k]!, p[k + 1]!, this.z)) continue;
          this.entries.descend(x, y, this.z);
          this.travel.feed(p[k]!, p[k + 1]!, this.z, Motion.entry);
          return startingAt(loop, k / 2);
        }
    return undefined;
  }

  /** Down where a neighbouring line has been cut, then sideways. */
  private enterBesideCut(loop: Loop): Polyline | undefined {
    const p = loop.points;
    const farthest = (loop.closed ? FARTHEST_LINK : FARTHEST_TO_LINE) * this.values.ae;
    let best = { distance: farthest, at: -1, x: 0, y: 0 };
    // what was cut higher up may stand over the part here
    const nearby = this.cut
      .filter(({ line, z }) => z <= this.z + SAME_MM && boxesMeet(line.points, p, best.distance))
      .map(({ line }) => line);
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
    if (!this.entries.isAllowedAlong(best.x, best.y, x, y, this.z)) return undefined;
    this.entries.descend(best.x, best.y, this.z);
    const line = startingAt(loop, best.at / 2);
    if (!this.linkTo(line, loop.closed)) this.travel.feed(x, y, this.z, Motion.link);
    return line;
  }

  private enterFromAbove(loop: Loop, nest: Nest): Polyline | undefined {
    return this.entries.into(loop, nest.region, this.z, (x, y) => startingNear(loop, x, y));
  }

  /** Whether steel stands higher over a line than one level: a place that could not be entered further up. */
  private isBuried({ points, closed }: Loop): boolean {
    const radius = this.middle;
    const line = closed ? closedUp(points) : points;
    const end: [number, number] = [line[line.length - 2]!, line[line.length - 1]!];
    return [...alongOf(line, radius), end].some(([x, y]) => this.travel.standsAbove(this.tallest, x, y, radius));
  }

  private whyNotEntered(why: string): string {
    return this.values.entry === 'none' ? 'Closed area, left on purpose' : why;
  }

  private leaveOut(why: string, loop: Loop): void {
    const [x, y] = [loop.points[0]!, loop.points[1]!];
    this.leftOut.push({ why, x, y, z: this.z, volume: this.steelAlong(loop) });
  }

  /** Steel between this level and the one above it that the cutter would have taken along a line, and no line before, mm³. */
  private steelAlong(loop: Loop): number {
    const { x0, y0, cell, nx, ny, heights } = this.travel.steel;
    const { radius } = this.cutter;
    const near = new SegmentIndex([loop.points], radius, loop.closed);
    const [minX, minY, maxX, maxY] = boundsOf(loop.points);
    const i1 = Math.min(nx - 1, Math.floor((maxX + radius - x0) / cell));
    const j1 = Math.min(ny - 1, Math.floor((maxY + radius - y0) / cell));
    const told = this.told.z === this.z ? this.told.cells : (this.told = { z: this.z, cells: new Set<number>() }).cells;
    let volume = 0;
    for (let j = Math.max(0, Math.floor((minY - radius - y0) / cell)); j <= j1; j++)
      for (let i = Math.max(0, Math.floor((minX - radius - x0) / cell)); i <= i1; i++) {
        const h = heights[j * nx + i]!;
        if (h <= this.z || told.has(j * nx + i)) continue;
        if (!near.isNear(x0 + (i + 0.5) * cell, y0 + (j + 0.5) * cell)) continue;
        told.add(j * nx + i);
        volume += (Math.min(h, this.above) - this.z) * cell * cell;
      }
    return volume;
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
