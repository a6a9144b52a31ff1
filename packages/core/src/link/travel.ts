import type { HeightMap } from '../steel/heightMap';
import { highestWithin } from '../steel/highest';
import { Sweep } from '../steel/sweep';
import type { ProfilePiece } from '../tool/profile';
import { cuttingPiece, holderProfile, type ToolShape } from '../tool/shape';
import { Motion, type PathBuilder } from '../path/toolpath';
import { HOUSE_ROOM, type TravelRoom } from './stepTravel';

/** Room kept around the cutter where it goes down, mm. */
const BESIDE_DOWN_MM = 0.2;
/** How often a crossing is held against what is no steel, mm: less than the room kept from it. */
const LOOK_MM = 0.5;
/** The map is lowered and asked by half a diagonal of a cell too little each: together in cells, rounded up. */
const PASSED_CELLS = 1.5;
/**
 * Room kept at rapid rate from faces that were never machined, above and beside, mm: sawn and rolled faces are not where the
 * block's size says (common practice: the usual machining allowance of bar and plate is 1 to 3 mm a side).
 */
export const RAW_MM = 2;
/** Steel this near to the raw top is the raw top, mm. */
const SAME_MM = 1e-3;

type Place = readonly [number, number, number];

export interface TravelTool {
  piece: ProfilePiece;
  stickOut: number;
  /** Length of the flutes: what stands taller is not cut, mm. */
  fluteLength: number;
  /** Largest radius of the holder, mm. */
  holderRadius: number;
}

/** What travelling needs to know of a tool. */
export function travelTool(tool: ToolShape): TravelTool {
  const holder = holderProfile(tool);
  return {
    piece: cuttingPiece(tool),
    stickOut: tool.stickOut,
    fluteLength: tool.APMX,
    holderRadius: holder.length > 0 ? holder[holder.length - 1]!.radius : 0,
  };
}

/**
 * Moves a cutter between cuts. Knows the steel as it is now on a coarse map that is never too low, so a link stays as low
 * as cutter and holder allow.
 */
export class Travel {
  private readonly lowered: Sweep;
  /** The last move that was fed, not yet taken off: its end may be left to the next one. */
  private waiting?: { from: Place; to: Place };

  /**
   * @param steel the steel before the first motion
   * @param rawTop height of the blank's top as it came, mm
   * @param lowest height that the tip must not go below at a place, for what is no steel
   */
  constructor(
    private readonly path: PathBuilder,
    steel: HeightMap,
    private readonly tool: TravelTool,
    private readonly safeZ: number,
    private readonly rawTop: number,
    private readonly lowest: (x: number, y: number) => number = () => -Infinity,
    private readonly room: TravelRoom = HOUSE_ROOM,
  ) {
    this.lowered = new Sweep(steel, slimmed(tool.piece, steel.cell), 0, steel.ny, tool.fluteLength);
  }

  /** The steel as it stands. */
  get steel(): HeightMap {
    return this.sweep.map;
  }

  /** The sweep with all moves taken off. */
  private get sweep(): Sweep {
    this.takeOff();
    return this.lowered;
  }

  /** Largest gap that is crossed without lifting, mm; undefined: as the kind of step does. */
  get gap(): number | undefined {
    return this.room.gap;
  }

  /** Radius in which the coarse map shows what the cutter passed as gone, mm. */
  get passed(): number {
    return Math.max(0, this.tool.piece.radius - PASSED_CELLS * this.lowered.map.cell);
  }

  /** Where the tip is, mm; undefined before the first motion. */
  get at(): readonly [number, number, number] | undefined {
    return this.path.last;
  }

  /** Feeds in a straight line and takes the steel off the map. */
  feed(x: number, y: number, z: number, kind: Motion): void {
    const at = this.path.last;
    this.path.to(x, y, z, kind);
    if (!at) return;
    const next: Place = [x, y, z];
    this.takeOff(at, next);
    this.waiting = { from: at, to: next };
  }

  /** Takes the waiting move off; where the next one goes on from its end, that end is left to it. */
  private takeOff(at?: Place, next?: Place): void {
    if (!this.waiting) return;
    const [[ax, ay, az], [bx, by, bz]] = [this.waiting.from, this.waiting.to];
    this.waiting = undefined;
    const goesOn = at !== undefined && at[0] === bx && at[1] === by && at[2] === bz;
    const isEndLeft =
      goesOn && this.lowered.runsOn(bx - ax, by - ay, bz - az, next![0] - bx, next![1] - by, next![2] - bz);
    this.lowered.move(ax, ay, az, bx, by, bz, isEndLeft);
  }

  /** Height from which a feed down at (x, y) begins, mm: a little above the highest steel within a radius. */
  startHeight(x: number, y: number, radius = this.tool.piece.radius): number {
    const beside = this.isOutside(x, y) ? RAW_MM : BESIDE_DOWN_MM;
    const top = Math.max(highestWithin(this.sweep, x, y, radius + beside), this.steel.floor);
    return Math.min(this.safeZ, top + this.roomAbove(top));
  }

  /** Height of the highest steel within a radius, mm. */
  topWithin(x: number, y: number, radius: number): number {
    return Math.max(highestWithin(this.sweep, x, y, radius), this.steel.floor);
  }

  /** Height at which it crosses a place as things stand, mm: from there a way to another goes level. */
  passHeight(x: number, y: number): number {
    return this.crossingHeight([x, y, -Infinity], x, y, -Infinity);
  }

  /** Whether the cutter may go down at (x, y) to z at rapid rate, or to just above it. */
  mayDrop(x: number, y: number, z: number): boolean {
    return this.startHeight(x, y) <= z + this.room.approach;
  }

  /** Whether no steel stands at (x, y), down to the block's underside: what stands beside it may be a raw face. */
  private isOutside(x: number, y: number): boolean {
    const { x0, y0, cell, nx, ny, floor, heights } = this.lowered.map;
    const i = Math.floor((x - x0) / cell);
    const j = Math.floor((y - y0) / cell);
    return i < 0 || j < 0 || i >= nx || j >= ny || heights[j * nx + i]! <= floor;
  }

  private roomAbove(top: number): number {
    return top >= this.rawTop - SAME_MM ? Math.max(RAW_MM, this.room.approach) : this.room.approach;
  }

  /** Whether any steel within a radius is higher than z, mm. */
  standsAbove(z: number, x: number, y: number, radius: number): boolean {
    return highestWithin(this.sweep, x, y, radius, z, z) > z;
  }

  /** Whether the cutter could stand at (x, y, z) without touching steel. */
  isClear(x: number, y: number, z: number): boolean {
    // the search reaches two thirds of a cell too far: without it a cutter just outside a block would count as touching
    return !this.standsAbove(z + 1e-3, x, y, this.tool.piece.radius - this.lowered.map.cell);
  }

  /** Crosses to (x, y) as low as it may and goes down to just above the steel there, but not below `z`. */
  crossTo(x: number, y: number, z: number): void {
    const at = this.path.last;
    if (!at) {
      this.path.to(x, y, this.safeZ, Motion.rapid);
    } else {
      const height = this.crossingHeight(at, x, y, z);
      if (at[2] < height) this.path.to(at[0], at[1], height, Motion.rapid);
      this.path.to(x, y, Math.max(at[2], height), Motion.rapid);
    }
    const low = Math.max(z, this.startHeight(x, y));
    const here = this.path.last!;
    if (low < here[2]) this.path.to(x, y, low, Motion.rapid);
  }

  /** Feeds to (x, y) at the height where the cutter is, lifted by `lift` mm on the way. */
  linkTo(x: number, y: number, lift: number): void {
    const [ax, ay, z] = this.path.last!;
    if (lift > 0) {
      this.feed(ax, ay, z + lift, Motion.link);
      this.feed(x, y, z + lift, Motion.link);
    }
    this.feed(x, y, z, Motion.link);
  }

  /** Feeds straight up to just above the steel around. */
  riseAtFeed(): void {
    const at = this.path.last!;
    const top = this.startHeight(at[0], at[1]);
    if (at[2] < top) this.path.to(at[0], at[1], top, Motion.link);
  }

  /** Leaves the work upward. */
  leave(): void {
    const at = this.path.last;
    if (at && at[2] < this.safeZ) this.path.to(at[0], at[1], this.safeZ, Motion.rapid);
  }

  private crossingHeight(at: readonly [number, number, number], x: number, y: number, z: number): number {
    const { approach, clearance } = this.room;
    const isOutside = this.isOutside(x, y) || this.isOutside(at[0], at[1]);
    const beside = isOutside ? Math.max(RAW_MM, clearance) : clearance;
    const cutterTop = this.highestAlong(at[0], at[1], x, y, this.tool.piece.radius + beside);
    const holderTop = this.highestAlong(at[0], at[1], x, y, this.tool.holderRadius + clearance);
    const heldOff = this.lowestAlong(at[0], at[1], x, y);
    const above = cutterTop + this.roomAbove(cutterTop);
    const height = Math.max(at[2], z, heldOff, above, holderTop - this.tool.stickOut + approach);
    return Math.min(this.safeZ, height);
  }

  private lowestAlong(ax: number, ay: number, bx: number, by: number): number {
    const n = Math.ceil(Math.hypot(bx - ax, by - ay) / LOOK_MM);
    let low = -Infinity;
    for (let k = 0; k <= n; k++) {
      const t = n === 0 ? 0 : k / n;
      low = Math.max(low, this.lowest(ax + t * (bx - ax), ay + t * (by - ay)));
    }
    return low;
  }

  private highestAlong(ax: number, ay: number, bx: number, by: number, radius: number): number {
    const length = Math.hypot(bx - ax, by - ay);
    const step = Math.max(this.lowered.map.cell, radius / 4);
    const n = Math.ceil(length / step);
    // circles this much larger cover the gaps between those that are looked at
    const wide = Math.hypot(radius, step / 2) + step / 4;
    let top = -Infinity;
    for (let k = 0; k <= n; k++) {
      const t = n === 0 ? 0 : k / n;
      top = highestWithin(this.sweep, ax + t * (bx - ax), ay + t * (by - ay), wide, top);
    }
    return top;
  }
}

/** A cutter smaller by the half diagonal of a cell: what it takes off a coarse map is surely gone from the whole cell. */
function slimmed(piece: ProfilePiece, cell: number): ProfilePiece {
  const radius = Math.max(piece.radius * 0.2, piece.radius - cell * Math.SQRT1_2);
  if (piece.kind === 'cone') return { ...piece, flat: Math.max(0, piece.flat - (piece.radius - radius)), radius };
  const corner = Math.min(piece.corner, radius);
  return { kind: 'round', z: 0, flat: radius - corner, corner, radius };
}
