import type { Cancel } from '../base/cancel';
import { defineTask } from '../crew/task';
import { nodeX, nodeY } from '../field/tipSurface';
import type { Polygon, Polyline } from '../geometry/polygon';
import { alongOf, closedUp, LOOK_MM } from '../levels/loop';
import { betweenLevels, Stairs } from '../levels/stairs';
import { Walls, type WallsInput } from '../levels/walls';
import type { HeightMap } from '../steel/heightMap';
import { radiusAt, type RoundPiece } from '../tool/profile';
import { type Begin, clear, type ClearingOptions, type Run } from './clearing';
import { LevelSteel } from './levelSteel';
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
/** Steel left in a place that is smaller than this share of the radius squared is not told. */
const TOLD_SHARE = 0.5;
/** This much less is reached, so that rounding along walls is no steel, mm. */
const ALONG_WALL_MM = 0.1;
/** Steel that the cutter at a place touches by less than so many steps of the grid is none. */
const TOUCH_STEPS = 1.5;
/** Around the places of a height that are cut the fields are known so far, in radii. */
const WINDOW_RADII = 5;
/** A point that the curve's tolerance let come too near is moved off the wall in such steps, so many times, mm. */
const OFF_MM = 0.004;
const OFF_TIMES = 60;
/** How often it is asked along a chord whether the axis may be there, mm. */
const CHORD_MM = 0.5;

const AIR: Begin = { by: 'air' };

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
  readonly left: readonly { readonly x: number; readonly y: number; readonly area: number }[];
}

/** Clears levels, each with what lies between it and the one above. */
export function steadyLevels(input: SteadyInput, cancel?: Cancel): SteadyResult[] {
  const walls = new Walls(input, cancel);
  return input.levels.map((level) => new Level(input, walls, cancel).clear(level));
}

class Level {
  private readonly grid: PlanGrid;
  private readonly heights: SteadyHeight[] = [];
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

  clear({ z, above, flats }: SteadyLevel): SteadyResult {
    const { grid, input } = this;
    this.radius = radiusAt(input.piece, above - z);
    const standing = standingSteel(grid, input.steel, z, MOST_RADII * input.piece.radius);
    if (!standing.some((s) => s > 0)) return { z, above, heights: [], left: [] };
    const wall = this.walls.of(this.walls.trace(z));
    const axis = this.axisAt(this.grid, wall);
    this.rounds(z, this.grid, standing, axis);
    const left = this.placesLeft(standing, axis);
    this.wayUp(z, above, flats, wall, standing);
    return { z, above, heights: this.heights, left };
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
    const { grid } = steel;
    const kept: Run[] = [];
    for (const { begin, points } of runs) {
      const parts = this.offWall(grid, points, z, room.axis);
      // what would touch the wall all the same is left out: what comes after it is come to from above
      parts.forEach((part, k) =>
        kept.push({ begin: k === 0 ? this.beginOffWall(begin, grid, z, room.axis) : AIR, points: part }),
      );
    }
    this.heights.push({ z, runs: kept });
  }

  private beginOffWall(begin: Begin, grid: PlanGrid, z: number, axis: Float32Array): Begin {
    if (begin.by === 'air') return begin;
    if (begin.by === 'helix') return { ...begin, radius: this.freeRadius(begin, z) };
    const parts = this.offWall(grid, begin.points, z, axis);
    return parts.length === 1 ? { ...begin, points: parts[0]! } : AIR;
  }

  /** The radius of a helix, less what the curve's tolerance let it come too near the wall. */
  private freeRadius({ x, y, radius }: { x: number; y: number; radius: number }, z: number): number {
    const n = Math.ceil((2 * Math.PI * radius) / CHORD_MM);
    let r = radius;
    for (let k = 0; k < n; k++) {
      const [cos, sin] = [Math.cos((2 * Math.PI * k) / n), Math.sin((2 * Math.PI * k) / n)];
      for (let m = 0; m < OFF_TIMES && !this.walls.isFree(x + r * cos, y + r * sin, z); m++) r -= OFF_MM;
    }
    return r;
  }

  /** A line whose points and chords keep off the wall exactly; in several parts where it cannot be moved off it. */
  private offWall(grid: PlanGrid, line: Polyline, z: number, axis: Float32Array): Float64Array[] {
    const near = 2 * grid.step;
    const parts: number[][] = [];
    let out: number[] = [];
    const put = (x: number, y: number, always: boolean): void => {
      let [px, py] = [x, y];
      let isMoved = false;
      for (let n = 0; !this.walls.isFree(px, py, z); n++) {
        if (n === OFF_TIMES) {
          parts.push(out);
          out = [];
          return;
        }
        const gx = valueAt(grid, axis, px + grid.step, py, 0) - valueAt(grid, axis, px - grid.step, py, 0);
        const gy = valueAt(grid, axis, px, py + grid.step, 0) - valueAt(grid, axis, px, py - grid.step, 0);
        const length = Math.hypot(gx, gy) || 1;
        px += (OFF_MM * gx) / length;
        py += (OFF_MM * gy) / length;
        isMoved = true;
      }
      if (always || isMoved) out.push(px, py);
    };
    for (let k = 0; k < line.length; k += 2) {
      const [x, y] = [line[k]!, line[k + 1]!];
      if (k > 0) {
        const [ax, ay] = [line[k - 2]!, line[k - 1]!];
        const n = Math.ceil(Math.hypot(x - ax, y - ay) / CHORD_MM);
        for (let s = 1; s < n; s++) {
          const [cx, cy] = [ax + ((x - ax) * s) / n, ay + ((y - ay) * s) / n];
          if (valueAt(grid, axis, cx, cy, 0) < near) put(cx, cy, false);
        }
      }
      if (valueAt(grid, axis, x, y, 0) < near) put(x, y, true);
      else out.push(x, y);
    }
    return [...parts, out].filter((part) => part.length > 0).map((part) => Float64Array.from(part));
  }

  /** Cuts what would stand too thick between a level and the one above it, lowest first. */
  private wayUp(
    z: number,
    above: number,
    flats: readonly number[],
    wall: readonly Polygon[],
    standing: Float32Array,
  ): void {
    const { grid: tips, stairs: thickest } = this.input;
    const stairs = new Stairs(tips, wall, z);
    const between = thickest === null ? [] : betweenLevels(z, above, thickest).map((b) => ({ ...b, isFlat: false }));
    const heights = [...between, ...flats.map((flat) => ({ z: flat, stair: Infinity, isFlat: true }))];
    let last = z;
    for (const { z: at, stair, isFlat } of heights.sort((a, b) => a.z - b.z)) {
      this.cancel?.check();
      this.radius = radiusAt(this.input.piece, above - at);
      const within = isFlat ? 0 : stairs.thinWithin(at, stair, thickest!);
      if (within === Infinity) continue;
      const border = this.walls.of(this.walls.trace(at));
      const isThick = (x: number, y: number): boolean =>
        this.touches(standing, x, y) && (isFlat || !stairs.isNear(x, y, within));
      const thick = [
        ...border.flatMap((ring) =>
          alongOf(closedUp(ring), LOOK_MM).filter(([x, y]) => stairs.isOver(x, y) && isThick(x, y)),
        ),
        ...this.tipsBetween(last, at).filter(([x, y]) => isThick(x, y)),
      ];
      if (thick.length === 0) continue;
      last = at;
      this.around(at, standing, border, thick);
    }
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

  /** Steel that stays at a height though the axis could stand by it: behind openings too narrow for a way in, or for the load. */
  private placesLeft(standing: Float32Array, axis: Float32Array): { x: number; y: number; area: number }[] {
    const { grid, input } = this;
    const { reached } = roomOf(grid, axis, this.radius);
    const n = reached.length;
    const isLeft = new Uint8Array(n);
    for (let o = 0; o < n; o++) if (Math.min(reached[o]! - ALONG_WALL_MM, standing[o]!) > 0) isLeft[o] = 1;
    const places: { x: number; y: number; area: number }[] = [];
    const stack: number[] = [];
    for (let first = 0; first < n; first++) {
      if (!isLeft[first]) continue;
      let [count, sx, sy] = [0, 0, 0];
      stack.push(first);
      isLeft[first] = 0;
      for (let o = stack.pop(); o !== undefined; o = stack.pop()) {
        const i = o % grid.nx;
        count++;
        sx += i;
        sy += (o - i) / grid.nx;
        for (const next of [o - 1, o + 1, o - grid.nx, o + grid.nx])
          if (isLeft[next]) {
            isLeft[next] = 0;
            stack.push(next);
          }
      }
      const area = count * grid.step ** 2;
      if (area >= TOLD_SHARE * input.piece.radius ** 2)
        places.push({ x: grid.x0 + (sx / count) * grid.step, y: grid.y0 + (sy / count) * grid.step, area });
    }
    return places;
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
