import { frontLoad } from './front';
import type { LevelSteel } from './levelSteel';
import { type PlanGrid, valueAt } from './planGrid';

/** The cutter goes on by this share of its radius at a time. */
const STEP_SHARE = 0.05;
/** The load is held this little below what was asked for: what lies between two places is as high as it. */
const HELD_SHARE = 0.97;
/** Where it cannot be held below this share, the pass ends. */
const MOST_SHARE = 1.25;
/** A step turns at most so far, rad. */
const MOST_TURN = 0.6;
/** On its way to the first steel it turns towards it at most so far in all, rad. */
const MOST_TO_STEEL = Math.PI / 2;
/** Headings that are tried between the two most turned ones. */
const LOOKS = 9;
/** The load is met to so much, rad. */
const LOAD_TOLERANCE = 0.004;
/** A load below this is none, rad. */
const NO_LOAD = 0.03;
/** A pass ends after this share of the radius without load. */
const AIR_SHARE = 0.25;
/** It gives up when it finds no steel within this many radii of its start. */
const SEARCH_RADII = 2.5;
/** In a tight place this share of the angle counts, over so many radii of the path. */
const TIGHT_COUNTED = 0.7;
const TIGHT_RADII = 0.5;
/** Along the wall the cutter turns from it in such steps, rad. */
const WALL_TURN = 0.02;
/** The room for a turn may fall short by this, mm. */
const ROOM_MM = 0.01;

export interface PassOptions {
  /** Signed distance of where the axis may be, mm. */
  readonly axis: Float32Array;
  /** Load that is asked for, as an engagement angle, rad. */
  readonly load: number;
  /** Least radius of the path, mm. */
  readonly turn: number;
  /** Steel lies on the right of the motion (1: climb) or on its left (-1). */
  readonly side: 1 | -1;
}

/** A pass that was cut: its points, x and y in turn, and the area that it took, mm². */
export interface SteadyPass {
  readonly points: number[];
  readonly taken: number;
}

/** Cuts passes that are steered so that the load on the cutter is the one asked for, or less where the wall keeps it off. */
export class PassCutter {
  private readonly grid: PlanGrid;
  private readonly step: number;
  private readonly most: number;
  /** Share of the angle that counts now. */
  private counted = 1;

  constructor(
    private readonly steel: LevelSteel,
    private readonly options: PassOptions,
  ) {
    this.grid = steel.grid;
    this.step = STEP_SHARE * steel.radius;
    this.most = Math.min(MOST_TURN, this.step / options.turn);
  }

  /**
   * Cuts from a place on, until no steel is met any more.
   *
   * @param heading direction at the start, rad
   * @param longest mm
   * @param weak what takes less than so much is taken back, mm²
   * @param isTight it begins where an earlier pass began, in a place as narrow as the cutter: there the first chip, however thin,
   * lies over a wide angle
   */
  cut(x: number, y: number, heading: number, longest: number, weak: number, isTight = false): SteadyPass | undefined {
    const { steel, step } = this;
    const { side } = this.options;
    const points = [x, y];
    let [angle, taken, empty, met, turned] = [heading, 0, 0, false, 0];
    steel.watch();
    const mostEmpty = AIR_SHARE * steel.radius;
    for (let length = 0; length < longest; length += step) {
      this.counted = isTight && length < TIGHT_RADII * steel.radius ? TIGHT_COUNTED : 1;
      const reach = met ? this.most : Math.min(this.most, Math.max(0, MOST_TO_STEEL + turned));
      const found = this.turnFor(x, y, angle, length === 0 ? Math.PI / 2 : this.most, reach);
      const by = this.clearOfWall(x, y, angle, found.turn);
      if (by === undefined) break;
      const load = by === found.turn ? found.load : this.loadAt(x, y, angle + by);
      if (load > MOST_SHARE * this.options.load) break;
      angle += by;
      // how far it has turned from its first heading away from the steel
      turned += side * by;
      const endX = x + step * Math.cos(angle);
      const endY = y + step * Math.sin(angle);
      taken += steel.cut(x, y, endX, endY, length > 0);
      if (taken >= weak) steel.keep();
      [x, y] = [endX, endY];
      points.push(x, y);
      if (load > NO_LOAD) {
        met = true;
        empty = 0;
      } else {
        empty += step;
        if (empty >= (met ? mostEmpty : SEARCH_RADII * steel.radius)) break;
      }
    }
    steel.takeBack();
    return taken < weak ? undefined : { points, taken };
  }

  private loadAt(x: number, y: number, angle: number): number {
    const { grid, step, steel } = this;
    const cos = Math.cos(angle);
    const sin = Math.sin(angle);
    return frontLoad(grid, steel.left, steel.radius, x + step * cos, y + step * sin, cos, sin, this.counted);
  }

  /**
   * The turn by which the load becomes the one asked for: the first one, from the side where no steel is. Where all are below it,
   * the farthest towards the steel; where all are above it, the farthest from it.
   *
   * @param from how far it may turn from the steel, rad
   * @param towards how far it may turn towards it, rad
   */
  private turnFor(x: number, y: number, angle: number, from: number, towards: number): { turn: number; load: number } {
    const { side, load: asked } = this.options;
    const wanted = HELD_SHARE * asked;
    let before = 0;
    let loadBefore = 0;
    for (let k = 0; k < LOOKS; k++) {
      const turn = from - ((from + towards) * k) / (LOOKS - 1);
      const load = this.loadAt(x, y, angle + side * turn);
      if (load >= wanted) {
        if (k === 0) return { turn: side * turn, load };
        return this.between(x, y, angle, before, loadBefore, turn, wanted);
      }
      before = turn;
      loadBefore = load;
    }
    return { turn: side * before, load: loadBefore };
  }

  /** The turn between one of less load and one of more at which it is the wanted one, and never more. */
  private between(
    x: number,
    y: number,
    angle: number,
    less: number,
    loadLess: number,
    more: number,
    wanted: number,
  ): { turn: number; load: number } {
    const { side } = this.options;
    for (let n = 0; n < 8 && wanted - loadLess > LOAD_TOLERANCE && Math.abs(less - more) > 1e-3; n++) {
      const turn = (less + more) / 2;
      const load = this.loadAt(x, y, angle + side * turn);
      if (load > wanted) more = turn;
      else [less, loadLess] = [turn, load];
    }
    return { turn: side * less, load: loadLess };
  }

  /** The smallest turn from the wall, from a given one on, after which the cutter still can turn away from it; undefined when none is. */
  private clearOfWall(x: number, y: number, angle: number, from: number): number | undefined {
    const { side } = this.options;
    for (let turn = side * from; turn <= this.most + 1e-9; turn += WALL_TURN)
      if (this.hasRoom(x, y, angle + side * turn)) return side * turn;
    return this.hasRoom(x, y, angle + side * this.most) ? side * this.most : undefined;
  }

  private hasRoom(x: number, y: number, angle: number): boolean {
    const { grid, step } = this;
    const { axis, turn, side } = this.options;
    const cos = Math.cos(angle);
    const sin = Math.sin(angle);
    const bx = x + step * cos;
    const by = y + step * sin;
    if (valueAt(grid, axis, bx, by, -1) < 0) return false;
    return valueAt(grid, axis, bx - side * turn * sin, by + side * turn * cos, -1) >= turn - ROOM_MM;
  }
}
