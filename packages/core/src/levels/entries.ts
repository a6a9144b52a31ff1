import { boundsOf, lengthOf, nearestOn, type Polyline, type Region, regionContains } from '../geometry/polygon';
import { Motion } from '../path/toolpath';
import { slopeDown } from '../tool/shape';
import { RAW_MM, type Travel } from '../link/travel';
import type { StepContext } from '../link/context';
import { alongOf, closedUp, type Loop } from './loop';
import type { Direction } from './loops';

/** From a drilled hole a line is reached through so many diameters of steel at most (common practice, no source). */
const FARTHEST_DRILLED = 1;
/** Places along a link, a helix or a ramp where it is asked whether the cutter may be there, mm apart. */
const LOOK_MM = 0.3;
/** Places around an opening at which its width is looked at. */
const OPENING_LOOKS = 24;
/** This near to its end a link may be on a level curve, within that curve's own tolerance, mm. */
const ON_CURVE_MM = 0.05;
/** Chords of a helix leave its circle, inward, by this share of the tolerance; and its turns have this many at least. */
const CHORD_SHARE = 0.5;
const FEWEST_ROUND = 12;
/** Room wanted between a helix and the wall, so that what the level above cleared surely covers it, mm. */
const HELIX_ROOM_MM = 1;
/** Largest helix radius where none is given, and the smallest, as a share of DC. */
const WIDEST_HELIX = 0.4;
const NARROWEST_HELIX = 0.05;
/** A ramp runs to and fro along at most this many diameters of a line. */
const RAMP_LENGTH = 3;
/** A ramp needs this many diameters to run along, or the cutter rubs on what stands below its middle. */
const SHORTEST_RAMP = 0.5;

/** The way from the floor above to a helix is this many diameters long at most, and lifted from this many on. */
const LONGEST_LINK = 3;
const LIFTED_FROM = 0.9;

/** A place to go down at is looked for this far beside one that is too near a raw face, mm, in such directions. */
const ASIDE_MM = [RAW_MM / 2, RAW_MM, 2 * RAW_MM];
const ASIDE_TURN = Math.PI / 6;

/** Helices that are tried again. */
const MOST_USED = 8;

/** How a cutter goes into closed steel; `none`: not at all, such areas are left on purpose. */
export const ENTRIES = ['helix', 'ramp', 'plunge', 'none'] as const;
export type EntryKind = (typeof ENTRIES)[number];

export interface EntryValues {
  direction: Direction;
  entry: EntryKind;
  rampAngleDeg: number;
  /** Radius of helices where there is room for it, mm; null: 0.4 DC. */
  helixRadius: number | null;
  /** Smallest width of a closed opening that is entered, mm. */
  smallestOpening: number;
  /** Height by which the cutter is lifted on long moves over ground that is cut already, mm. */
  lift: number;
  /** How far the path may be off, mm. */
  tolerance: number;
}

/** What of a cutter its ways in depend on, mm. */
export interface EntryCutter {
  diameter: number;
  /** Radius inside which nothing stands above a cleared floor but ridges between lines, and how high those may be. */
  middle: number;
  ridge: number;
  /** Nothing that the cutter has passed stands higher above the floor than this, out to its rim. */
  rim: number;
  /** What its maker allows: the steepest way down, degrees, and the smallest bore that a helix opens. */
  RMPX?: number | undefined;
  DMIN?: number | undefined;
}

/** Radius of the narrowest helix that a cutter may go down by, mm: the bore is wider by its diameter. */
export function leastHelix({ diameter, DMIN }: Pick<EntryCutter, 'diameter' | 'DMIN'>): number {
  return DMIN === undefined ? 0 : Math.max(0, (DMIN - diameter) / 2);
}

/** Whether the axis may not be at (x, y) with the tip at z. */
export type Forbids = (x: number, y: number, z: number) => boolean;

/** Ways from above into steel that is closed all round. */
export class Entries {
  /** The last helices, with the room that was left around them: where one went down one mostly does at the next level. */
  private readonly used: { x: number; y: number; r: number; room: number }[] = [];
  private readonly diameter: number;
  private readonly rooms = new Map<Region, { x: number; y: number; room: number } | undefined>();

  constructor(
    private readonly travel: Travel,
    private readonly forbids: Forbids,
    private readonly cutter: EntryCutter,
    private readonly values: EntryValues,
    private readonly drilled: StepContext['drilled'],
  ) {
    this.diameter = cutter.diameter;
  }

  /** Goes in and on to the line; gives the line from there, or undefined when there is no way in. */
  into(loop: Loop, region: Region, z: number, from: (x: number, y: number) => Polyline): Polyline | undefined {
    const { entry } = this.values;
    if (entry === 'none') return undefined;
    const drilled = this.throughDrilled(region, z, from);
    if (drilled) return drilled;
    if (entry === 'plunge') return this.plunge(loop, region, z, from);
    if (entry === 'ramp') return this.ramp(loop, region, z);
    return this.byHelix(loop, region, z, from) ?? this.ramp(loop, region, z);
  }

  isFree(x: number, y: number, z: number): boolean {
    return !this.forbids(x, y, z);
  }

  /** Whether the axis may run straight from a to b. The ends may lie on a wall's curve, where rounding would decide. */
  isAllowedAlong(ax: number, ay: number, bx: number, by: number, z: number): boolean {
    const length = Math.hypot(bx - ax, by - ay);
    if (length <= 2 * ON_CURVE_MM) return true;
    const n = Math.max(1, Math.ceil(length / LOOK_MM));
    for (let k = 0; k <= n; k++) {
      const t = (ON_CURVE_MM + ((length - 2 * ON_CURVE_MM) * k) / n) / length;
      if (this.forbids(ax + (bx - ax) * t, ay + (by - ay) * t, z)) return false;
    }
    return true;
  }

  /** Down to (x, y) through air; where that is too near a raw face for a rapid, farther away from it, then sideways. */
  descend(x: number, y: number, z: number): void {
    const [px, py] = this.travel.mayDrop(x, y, z) ? [x, y] : (this.placeBeside(x, y, z) ?? [x, y]);
    this.travel.crossTo(px, py, z);
    this.travel.feed(px, py, z, Motion.entry);
    if (px !== x || py !== y) this.travel.feed(x, y, z, Motion.entry);
  }

  /** The nearest place around (x, y) where the cutter may go down at rapid rate, and from where it may go to (x, y) straight. */
  private placeBeside(x: number, y: number, z: number): [number, number] | undefined {
    for (const far of ASIDE_MM)
      for (let a = 0; a < 2 * Math.PI; a += ASIDE_TURN) {
        const [px, py] = [x + far * Math.cos(a), y + far * Math.sin(a)];
        if (this.travel.mayDrop(px, py, z) && this.isAllowedAlong(px, py, x, y, z)) return [px, py];
      }
    return undefined;
  }

  /** Down a hole that was drilled before, wide and deep enough for the cutter. */
  private throughDrilled(region: Region, z: number, from: (x: number, y: number) => Polyline): Polyline | undefined {
    for (const hole of this.drilled) {
      const { x, y } = hole;
      if (hole.diameter < this.diameter || hole.bottom > z || this.forbids(x, y, z)) continue;
      const line = from(x, y);
      // beside the area a little is cut on the way to it
      const away = Math.hypot(line[0]! - x, line[1]! - y);
      if (!regionContains(region, x, y) && away > FARTHEST_DRILLED * this.diameter) continue;
      if (!this.isAllowedAlong(x, y, line[0]!, line[1]!, z)) continue;
      this.travel.crossTo(x, y, z);
      this.travel.feed(x, y, z, Motion.entry);
      this.travel.feed(line[0]!, line[1]!, z, Motion.entry);
      return line;
    }
    return undefined;
  }

  private byHelix(loop: Loop, region: Region, z: number, from: (x: number, y: number) => Polyline) {
    const least = leastHelix(this.cutter);
    const smallest = Math.max(
      least,
      NARROWEST_HELIX * this.diameter,
      (this.values.smallestOpening - this.diameter) / 2,
    );
    const widest = Math.max(least, this.values.helixRadius ?? Math.max(smallest, WIDEST_HELIX * this.diameter));
    const narrowest = Math.min(smallest, widest) * 0.999;
    const enter = (x: number, y: number, r: number): Polyline | undefined => {
      const line = from(x + r, y);
      if (!this.isAllowedAlong(x + r, y, line[0]!, line[1]!, z)) return undefined;
      this.helix(x, y, z, r);
      this.travel.feed(line[0]!, line[1]!, z, Motion.entry);
      return line;
    };
    // around an island both may differ: the circle that is run, and the width of the opening
    const fits = (x: number, y: number, r: number, room: number): boolean =>
      this.isOpen(x, y, z, Math.max(r, smallest * 0.999) + room) && this.isFreeAround(x, y, z, r, LOOK_MM);
    for (const { x, y, r, room } of loop.closed ? this.used : []) {
      const line = regionContains(region, x, y) && fits(x, y, r, room) ? enter(x, y, r) : undefined;
      if (line) return line;
    }
    const places = this.placesFor(loop, region);
    for (const room of [HELIX_ROOM_MM, 0])
      for (const [x, y] of places)
        for (let r = widest; r >= narrowest; r *= 0.8) {
          const line = fits(x, y, r, room) ? enter(x, y, r) : undefined;
          if (!line) continue;
          this.used.unshift({ x, y, r, room });
          this.used.length = Math.min(this.used.length, MOST_USED);
          return line;
        }
    return undefined;
  }

  /** Whether there is room for the axis around a place, looked at roughly. */
  private isOpen(x: number, y: number, z: number, r: number): boolean {
    return !this.forbids(x, y, z) && this.isFreeAround(x, y, z, r, (2 * Math.PI * r) / OPENING_LOOKS);
  }

  /** Whether the axis may run round a circle, looked at every `look` mm. */
  private isFreeAround(x: number, y: number, z: number, r: number, look: number): boolean {
    const n = Math.max(OPENING_LOOKS, Math.ceil((2 * Math.PI * r) / look));
    for (let k = 0; k < n; k++) {
      const a = (2 * Math.PI * k) / n;
      if (this.forbids(x + r * Math.cos(a), y + r * Math.sin(a), z)) return false;
    }
    return true;
  }

  /**
   * Down in a helix (counter-clockwise: climb inside; -1: clockwise), then once round at the level. The turns are whole ones, so that the
   * cutter ends at (x + r, y), from where the way on was looked at.
   */
  helix(x: number, y: number, z: number, r: number, way: 1 | -1 = 1): void {
    const round = pointsRound(r, CHORD_SHARE * this.values.tolerance);
    const step = (2 * Math.PI) / round;
    const circle = new Float64Array(2 * round + 2);
    for (let k = 0; k <= round; k++) {
      circle[2 * k] = x + r * Math.cos(k * step);
      circle[2 * k + 1] = y + way * r * Math.sin(k * step);
    }
    const top = this.standOver(circle, z, this.travel.startHeight(x, y, r + this.diameter / 2));
    const steps = round * Math.ceil(Math.max(0, top - z) / (2 * Math.PI * r * this.slope));
    for (let k = 1; k <= steps + round; k++) {
      const at = 2 * (k % round);
      this.travel.feed(circle[at]!, circle[at + 1]!, k <= steps ? top - ((top - z) * k) / steps : z, Motion.entry);
    }
  }

  /**
   * Brings the cutter to where a line down begins, and gives the height from which it goes down: the cleared floor on which
   * it stands, when it may go on from there without being lifted, or a little above the steel.
   *
   * @param line on which it will go down
   * @param top a little above the steel all along it, mm
   */
  private standOver(line: Polyline, z: number, top: number): number {
    const [x, y] = [line[0]!, line[1]!];
    const floor = this.floorAbove(line, z);
    if (floor === undefined || floor >= top) {
      this.travel.crossTo(x, y, top);
      return top;
    }
    this.linkOn(x, y);
    return floor;
  }

  /**
   * Height of the cleared floor on which the cutter stands, when no steel stands on the way to a line, nor over the line,
   * higher than the ridges that are left between lines.
   */
  private floorAbove(line: Polyline, z: number): number | undefined {
    const at = this.travel.at;
    if (!at || at[2] < z) return undefined;
    const [ax, ay, floor] = at;
    const [x, y] = [line[0]!, line[1]!];
    if (Math.hypot(x - ax, y - ay) > (this.travel.gap ?? LONGEST_LINK * this.diameter)) return undefined;
    const { ridge, middle, rim } = this.cutter;
    const step = Math.max(LOOK_MM, middle);
    const looks = [...alongOf(Float64Array.of(ax, ay, x, y), step), ...alongOf(line, step)];
    const { travel } = this;
    for (const [px, py] of looks)
      if (travel.standsAbove(floor + ridge, px, py, middle) || travel.standsAbove(floor + rim, px, py, travel.passed))
        return undefined;
    return this.isAllowedAlong(ax, ay, x, y, floor) ? floor : undefined;
  }

  /** On to (x, y) at the height where the cutter is, lifted a little on a long way: but sideways where steel stands at its end. */
  private linkOn(x: number, y: number): void {
    const [ax, ay, z] = this.travel.at!;
    const isLong = Math.hypot(x - ax, y - ay) > LIFTED_FROM * this.diameter;
    this.travel.linkTo(x, y, isLong && this.travel.isClear(x, y, z) ? this.values.lift : 0);
  }

  private get slope(): number {
    return slopeDown(this.values.rampAngleDeg, this.cutter);
  }

  /** Down along the line itself: round and round a short closed one, to and fro along the first of any other. */
  private ramp(loop: Loop, region: Region, z: number): Polyline | undefined {
    if (!this.isOpening(loop, region, z)) return undefined;
    const line = loop.closed ? closedUp(loop.points) : loop.points;
    const stretch = firstOf(line, RAMP_LENGTH * this.diameter);
    const length = lengthOf(stretch);
    if (length < SHORTEST_RAMP * this.diameter) return undefined;
    let top = z;
    for (const [x, y] of alongOf(stretch, this.diameter / 4)) top = Math.max(top, this.travel.startHeight(x, y));
    top = this.standOver(stretch, z, top);
    const ways = 2 * Math.max(1, Math.ceil(Math.max(0, top - z) / this.slope / length / 2));
    let done = 0;
    for (let way = 0; way < ways; way++) {
      const n = stretch.length / 2;
      for (let k = 1; k < n; k++) {
        const [a, b] = way % 2 === 0 ? [k - 1, k] : [n - k, n - 1 - k];
        done += Math.hypot(stretch[2 * b]! - stretch[2 * a]!, stretch[2 * b + 1]! - stretch[2 * a + 1]!);
        const height = top - (top - z) * Math.min(1, done / (ways * length));
        this.travel.feed(stretch[2 * b]!, stretch[2 * b + 1]!, height, Motion.entry);
      }
    }
    this.travel.feed(stretch[0]!, stretch[1]!, z, Motion.entry);
    return line;
  }

  /** Whether the steel to be entered is as wide as the smallest opening somewhere along the line. */
  private isOpening(loop: Loop, region: Region, z: number): boolean {
    const room = Math.max(0, (this.values.smallestOpening - this.diameter) / 2) * 0.999;
    return this.placesFor(loop, region).some(([x, y]) => this.isOpen(x, y, z, room));
  }

  private plunge(loop: Loop, region: Region, z: number, from: (x: number, y: number) => Polyline) {
    if (!this.isOpening(loop, region, z)) return undefined;
    for (const [x, y] of this.placesFor(loop, region)) {
      if (this.forbids(x, y, z)) continue;
      const line = from(x, y);
      if (!this.isAllowedAlong(x, y, line[0]!, line[1]!, z)) continue;
      this.travel.crossTo(x, y, z);
      this.travel.feed(x, y, z, Motion.entry);
      this.travel.feed(line[0]!, line[1]!, z, Motion.entry);
      return line;
    }
    return undefined;
  }

  /** Places to go in at: for a loop the roomiest point inside the area first, then points along the line. */
  private placesFor(loop: Loop, region: Region): [number, number][] {
    const places: [number, number][] = [];
    const roomy = loop.closed ? this.roomOf(region) : undefined;
    if (roomy) places.push([roomy.x, roomy.y]);
    const p = loop.points;
    if (!loop.closed) return alongOf(p, this.diameter / 2);
    const step = Math.max(2, 2 * Math.floor(p.length / 2 / 12));
    for (let k = 0; k < p.length; k += step) places.push([p[k]!, p[k + 1]!]);
    return places;
  }

  private roomOf(region: Region): { x: number; y: number; room: number } | undefined {
    if (!this.rooms.has(region)) this.rooms.set(region, roomiest(region));
    return this.rooms.get(region);
  }
}

/** How many chords a circle of radius r takes that leave it by a tolerance at most: their height is r (1 - cos(angle / 2)). */
function pointsRound(r: number, tolerance: number): number {
  const angle = 2 * Math.acos(Math.max(0, 1 - tolerance / r));
  return Math.max(FEWEST_ROUND, Math.ceil((2 * Math.PI) / angle));
}

/** The first `length` mm of a line. */
function firstOf(line: Polyline, length: number): Polyline {
  const out = [line[0]!, line[1]!];
  let left = length;
  for (let k = 2; k < line.length && left > 0; k += 2) {
    const dx = line[k]! - line[k - 2]!;
    const dy = line[k + 1]! - line[k - 1]!;
    const piece = Math.hypot(dx, dy);
    const t = piece > left ? left / piece : 1;
    out.push(line[k - 2]! + t * dx, line[k - 1]! + t * dy);
    left -= piece;
  }
  return Float64Array.from(out);
}

/** A point inside a region far from its borders, and how far (mm): the best of a grid, then refined twice around it. */
function roomiest(region: Region): { x: number; y: number; room: number } | undefined {
  const [minX, minY, maxX, maxY] = boundsOf(region.outer);
  let best: { x: number; y: number; room: number } | undefined;
  let [cx, cy, half] = [(minX + maxX) / 2, (minY + maxY) / 2, Math.max(maxX - minX, maxY - minY) / 2];
  for (let round = 0; round < 3; round++) {
    for (let j = -6; j <= 6; j++)
      for (let i = -6; i <= 6; i++) {
        const x = cx + (i * half) / 6;
        const y = cy + (j * half) / 6;
        if (!regionContains(region, x, y)) continue;
        const room = Math.min(...[region.outer, ...region.holes].map((ring) => nearestOn(ring, x, y, true).distance));
        if (room > (best?.room ?? 0)) best = { x, y, room };
      }
    if (best) [cx, cy] = [best.x, best.y];
    half /= 6;
  }
  return best;
}
