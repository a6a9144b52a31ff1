import type { Cancel } from '../base/cancel';
import { defineTask } from '../crew/task';
import { nodeX, nodeY } from '../field/tipSurface';
import type { Polygon } from '../geometry/polygon';
import { alongOf, closedUp, LOOK_MM } from '../levels/loop';
import { betweenLevels, Stairs } from '../levels/stairs';
import { Walls, type WallsInput } from '../levels/walls';
import type { HeightMap } from '../steel/heightMap';
import { radiusAt, type RoundPiece } from '../tool/profile';
import { clear, type ClearingOptions, type Run } from './clearing';
import { LevelSteel } from './levelSteel';
import { OffWall } from './offWall';
import { NotEntered, type SteadyLeft, tipsOver } from './notEntered';
import { standingSteel } from './plainSteel';
import {
  cutOut,
  distanceTo,
  lineAt,
  openDistance,
  type PlanGrid,
  putBack,
  valueAt,
  type Window,
  windowOf,
} from './planGrid';
import { opened, type Room, roomOf } from './rooms';

/** Farther than so many radii it is not told how far walls and steel are: the widest helix and the cutter itself ask no more. */
const MOST_RADII = 1.5;
/** Nodes of the fields to a radius of the cutter. */
const NODES = 18;
/** Bays narrower than a circle of such radii are left in the first round, and in the second, where they hold enough steel. */
const ROUNDS = [0.3, 0.1];
/** A second round is worth it from such steel on, in side steps times radius. */
const WORTH_STEPS = 4;
/** Steel on the way up is cut so much around where it would stand too thick, in radii beyond the cutter's own. */
const AROUND_THICK = 1.5;
/** Steel that the cutter at a place touches by less than so many steps of the grid is none. */
const TOUCH_STEPS = 1.5;
/** A stair of 60° is so many times as high as it is thick (geometry): what stands no higher is one. */
const STAIR_HEIGHTS = 2;
/** Around the places of a height that are cut the fields are known so far, in radii. */
const WINDOW_RADII = 5;

/** A level to be cleared at full depth, and the heights of flats between it and the level above. */
export interface SteadyLevel {
  readonly z: number;
  readonly above: number;
  /** Ascending. */
  readonly flats: readonly number[];
}

export interface SteadyInput extends WallsInput {
  readonly levels: readonly SteadyLevel[];
  /** Where the axis may go: a rectangle, counter-clockwise. */
  readonly within: Polygon;
  /** The steel that is to be cut. */
  readonly steel: HeightMap;
  readonly piece: RoundPiece;
  /** Load that is asked for, rad, see `frontLoad`. */
  readonly load: number;
  /** Least radius of the path, mm. */
  readonly turn: number;
  readonly side: 1 | -1;
  readonly both: boolean;
  readonly helix: { readonly least: number; readonly most: number };
  /** Largest thickness of stairs between levels, mm; null: as the levels leave them. */
  readonly stairs: number | null;
}

/** A height on the way up, and the stair that it halves, mm; undefined at a flat, where all is cut. */
interface HeightBetween {
  readonly z: number;
  readonly stair: number | undefined;
}

/** What is cut at one height. */
export interface SteadyHeight {
  readonly z: number;
  readonly runs: readonly Run[];
}

/** What is cut at a level and on the way up from it, and what steel is left at it. */
export interface SteadyResult {
  readonly z: number;
  readonly above: number;
  readonly heights: readonly SteadyHeight[];
  readonly left: readonly SteadyLeft[];
}

/** Clears levels, each with what lies between it and the one above. */
export function steadyLevels(input: SteadyInput, cancel?: Cancel): SteadyResult[] {
  const walls = new Walls(input, cancel);
  return input.levels.map((level) => new Level(input, walls, cancel).clear(level));
}

class Level {
  private readonly grid: PlanGrid;
  private readonly heights: SteadyHeight[] = [];
  private readonly left: SteadyLeft[] = [];
  private at: readonly [number, number] | undefined;
  /** Radius of the cutter where the steel of the height that is cut ends: less than at its flank where that is thin. */
  private radius: number;

  constructor(
    private readonly input: SteadyInput,
    private readonly walls: Walls,
    private readonly cancel?: Cancel,
  ) {
    this.radius = input.piece.radius;
    this.grid = gridOver(input.within, input.piece.radius);
  }

  clear(level: SteadyLevel): SteadyResult {
    const { grid, input, heights, left } = this;
    const { z, above } = level;
    this.radius = radiusAt(input.piece, above - z);
    const standing = standingSteel(grid, input.steel, z, MOST_RADII * input.piece.radius);
    if (!standing.some((s) => s > 0)) return { z, above, heights, left };
    const wall = this.walls.of(this.walls.trace(z));
    const axis = this.axisAt(this.grid, wall);
    this.rounds(z, this.grid, standing, axis);
    const between = this.heightsBetween(level);
    // without stairs nothing but the level itself is to be cleared
    const isStepped = input.stairs !== null && between.length > 0;
    const open = isStepped ? this.axisAt(grid, this.walls.of(this.walls.trace(between.at(-1)!.z))) : axis;
    const tips = isStepped ? tipsOver(grid, input.grid) : new Float32Array(axis.length).fill(-Infinity);
    const notEntered = new NotEntered(grid, open, tips, input.piece.radius);
    const all = [z, ...between.map((b) => b.z), above];
    notEntered.after(z, isStepped ? all[1]! : above, standing);
    const stairs = new Stairs(input.grid, wall, z);
    let last = z;
    between.forEach((height, k) => {
      if (this.isCut(height, above, last, stairs, standing)) last = height.z;
      if (isStepped) notEntered.after(height.z, all[k + 2]!, standing);
    });
    left.push(...notEntered.places(STAIR_HEIGHTS * (input.stairs ?? 0)));
    return { z, above, heights, left };
  }

  /** Signed distance of where the walls let the axis be. */
  private axisAt(grid: PlanGrid, wall: readonly Polygon[]): Float32Array {
    return openDistance(grid, wall, MOST_RADII * this.input.piece.radius);
  }

  /** Clears a height; then once more into narrower places, where enough is left there. */
  private rounds(z: number, grid: PlanGrid, standing: Float32Array, open: Float32Array, walls = open): void {
    const { input } = this;
    const worth = WORTH_STEPS * this.radius * this.radius * (1 - Math.cos(input.load));
    let bay = Infinity;
    for (const share of ROUNDS) {
      const next = Math.max(share * input.piece.radius, input.turn);
      if (next >= bay) return;
      bay = next;
      const room = this.roomWith(grid, open, bay);
      const steel = new LevelSteel(grid, standing, room.reached, this.radius);
      if (steel.areaLeft === 0 || (share < ROUNDS[0]! && steel.areaLeft < worth)) continue;
      this.run(z, steel, room, walls);
    }
  }

  /** The room without bays narrower than a circle; the border of the plan is no wall for that circle, but none leaves it. */
  private roomWith(grid: PlanGrid, open: Float32Array, radius: number): Room {
    const { input } = this;
    const axis = opened(grid, open, radius);
    const [minX, minY, , , maxX, maxY] = input.within;
    for (let j = 0; j < grid.ny; j++) {
      const y = grid.y0 + j * grid.step;
      for (let i = 0; i < grid.nx; i++) {
        const x = grid.x0 + i * grid.step;
        const o = j * grid.nx + i;
        axis[o] = Math.min(axis[o]!, x - minX!, maxX! - x, y - minY!, maxY! - y);
      }
    }
    return roomOf(grid, axis, this.radius);
  }

  private run(z: number, steel: LevelSteel, room: Room, walls: Float32Array): void {
    const { input } = this;
    const options: ClearingOptions = {
      axis: room.axis,
      walls,
      load: input.load,
      turn: input.turn,
      side: input.side,
      both: input.both,
      tolerance: input.tolerance / 2,
      helix: input.helix,
      cancel: this.cancel,
    };
    const { runs, at } = clear(steel, options, this.at);
    this.at = at;
    if (runs.length === 0) return;
    const off = new OffWall(steel.grid, room.axis, (x, y) => this.walls.isFree(x, y, z));
    this.heights.push({
      z,
      runs: runs.map(({ begin, points }): Run => {
        const [line, rest] = off.line(points);
        if (rest) this.left.push({ ...rest, z, volume: undefined });
        return { begin: off.begin(begin), points: line };
      }),
    });
  }

  /** Heights between a level and the one above it at which something may be cut on the way up, lowest first. */
  private heightsBetween({ z, above, flats }: SteadyLevel): readonly HeightBetween[] {
    const { stairs } = this.input;
    const between = stairs === null ? [] : betweenLevels(z, above, stairs);
    return [...between, ...flats.map((flat) => ({ z: flat, stair: undefined }))].sort((a, b) => a.z - b.z);
  }

  /** Cuts what would stand too thick below a height; whether anything would. */
  private isCut(
    { z, stair }: HeightBetween,
    above: number,
    last: number,
    stairs: Stairs,
    standing: Float32Array,
  ): boolean {
    this.cancel?.check();
    this.radius = radiusAt(this.input.piece, above - z);
    const within = stair === undefined ? -Infinity : stairs.thinWithin(z, stair, this.input.stairs!);
    if (within === Infinity) return false;
    const border = this.walls.of(this.walls.trace(z));
    const isThick = (x: number, y: number): boolean => this.touches(standing, x, y) && !stairs.isNear(x, y, within);
    const thick = [
      ...border.flatMap((ring) =>
        alongOf(closedUp(ring), LOOK_MM).filter(([x, y]) => stairs.isOver(x, y) && isThick(x, y)),
      ),
      ...this.tipsBetween(last, z).filter(([x, y]) => isThick(x, y)),
    ];
    if (thick.length === 0) return false;
    this.around(z, standing, border, thick);
    return true;
  }

  /** Places where the tip comes down to a height from `low` to `high`: over a ledge no border runs. */
  private tipsBetween(low: number, high: number): [number, number][] {
    const { grid: tips } = this.input;
    const out: [number, number][] = [];
    for (let j = 0; j < tips.ny; j++)
      for (let i = 0; i < tips.nx; i++) {
        const tip = tips.z[j * tips.nx + i]!;
        if (tip > low && tip <= high) out.push([nodeX(tips, i, j), nodeY(tips, i, j)]);
      }
    return out;
  }

  /** Whether the cutter at a place touches steel, to some steps of the grid. */
  private touches(standing: Float32Array, x: number, y: number): boolean {
    const { grid, radius } = this;
    return valueAt(grid, standing, x, y, -Infinity) > -radius + TOUCH_STEPS * grid.step;
  }

  /** Clears what lies around places of a height; what lies farther stays, and is kept off like a wall. */
  private around(
    z: number,
    standing: Float32Array,
    border: readonly Polygon[],
    places: readonly (readonly [number, number])[],
  ): void {
    const { radius } = this.input.piece;
    const grid = this.windowAround(places);
    const steelIn = cutOut(this.grid, standing, grid);
    const seeds = new Float64Array(4 * places.length);
    places.forEach(([x, y], k) => seeds.set([x, y, x, y], 4 * k));
    const reach = (1 + AROUND_THICK) * radius;
    const far = distanceTo(grid, seeds, reach + MOST_RADII * radius);
    const other = far.map((d, o) => Math.min(d - reach, steelIn[o]!));
    const kept = distanceTo(grid, lineAt(grid, other, 0), MOST_RADII * radius);
    const walls = this.axisAt(grid, border);
    const axis = walls.slice();
    for (let o = 0; o < far.length; o++) axis[o] = Math.min(axis[o]!, (other[o]! > 0 ? -kept[o]! : kept[o]!) - radius);
    this.rounds(z, grid, steelIn, axis, walls);
    putBack(this.grid, standing, grid, steelIn);
  }

  /** The nodes around places, as far as what is cut there matters; where the cutter stands too, when that is near. */
  private windowAround(places: readonly (readonly [number, number])[]): Window {
    let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
    const take = ([x, y]: readonly [number, number]): void => {
      [minX, minY] = [Math.min(minX, x), Math.min(minY, y)];
      [maxX, maxY] = [Math.max(maxX, x), Math.max(maxY, y)];
    };
    places.forEach(take);
    const by = WINDOW_RADII * this.input.piece.radius;
    const { at } = this;
    if (at && at[0] > minX - by && at[0] < maxX + by && at[1] > minY - by && at[1] < maxY + by) take(at);
    return windowOf(this.grid, minX - by, minY - by, maxX + by, maxY + by);
  }
}

/** The nodes of the fields over where the cutter may be, some more around it. */
function gridOver([minX, minY, , , maxX, maxY]: Polygon, radius: number): PlanGrid {
  const step = radius / NODES;
  const by = radius + 2 * step;
  return {
    x0: minX! - by,
    y0: minY! - by,
    step,
    nx: Math.ceil((maxX! - minX! + 2 * by) / step) + 1,
    ny: Math.ceil((maxY! - minY! + 2 * by) / step) + 1,
  };
}

/** Clears levels, one after another. */
export const steadyLevelsTask = defineTask('steadyLevels', steadyLevels);
