import { contains, covered, offsetPolygons, type Polygon, type Region, reversed, subtract } from '../geometry/polygon';
import type { RaisedCells } from '../geometry/raisedCells';
import type { Cancel } from '../base/cancel';
import { defineTask } from '../crew/task';
import type { LevelTracer } from '../field/levelTracer';
import { type Matters, NEAR_STEPS } from '../field/matters';
import type { HeightMap } from '../steel/heightMap';
import { FreeArea, INNER_SIMPLIFY_MM, isArea, touchesBorder } from './freeArea';
import type { Level } from './heights';
import { covering, evenly, type LinePlaces, linesIn } from './lines';
import { alongOf, closedUp, LOOK_MM, type Loop, type Nest, partsOf, type PartsOptions } from './loop';
import { holds, linesOf } from './regions';
import { reliefLines } from './relief';
import { betweenLevels, Stairs } from './stairs';
import { spiralled } from './spiral';
import { standingSteel, SteelAtLevel } from './steelAtLevel';
import { Walls, type WallsInput } from './walls';

/** Places are known to a cell of the steel's map: half its diagonal and a little, in cells. */
const CELL_SHARE = 0.75;
/** Lines end this share of a side step before the wall, where the clean-up loop takes over. */
const CLEAN_UP = 0.25;
const MOST_RINGS = 2000;

/** How an area is filled. */
export const PATTERNS = ['auto', 'inside-out', 'outside-in', 'spiral', 'lines'] as const;
export type Pattern = (typeof PATTERNS)[number];
export const DIRECTIONS = ['climb', 'conventional', 'shortest'] as const;
export type Direction = (typeof DIRECTIONS)[number];

export interface LevelLoopsInput extends WallsInput {
  /** Levels to be worked out, and for each the cells that are to be cleared, when not all. */
  levels: readonly (Level & { only?: Uint8Array })[];
  ae: number;
  /** Largest thickness of stairs between levels, mm; null: as the levels leave them. */
  stairs: number | null;
  /** Inside corners of the loops beside the wall's have at least this radius, mm. */
  cornerRadius: number;
  /** Largest angle over which the cutter is to meet steel in corners, rad; null: they are not eased. */
  cornerLoad: number | null;
  pattern: Pattern;
  /** So many loops along the wall and no more; null: the whole area. */
  wallLoops: number | null;
  /** Direction of parallel lines to X, rad. */
  angle: number;
  direction: Direction;
  /** Where the cutter's axis may go, counter-clockwise, and how far outside steel its border keeps the cutter, mm. */
  within: Polygon;
  outside: number;
  /** Steel before the step, coarse and never too low. */
  steel: HeightMap;
  radius: number;
}

/** The lines of a level, and those of the heights in between that are cut after it, lowest first. */
export interface LevelLoops extends Level {
  nests: Nest[];
  between: { z: number; nests: Nest[] }[];
}

/** The lines of each level: borders of the allowed area, and that area shrunk by one side step after the other. */
export function levelLoops(input: LevelLoopsInput, cancel?: Cancel): LevelLoops[] {
  const maker = new LoopMaker(input, cancel);
  return input.levels.map((level) => maker.at(level));
}

/** What is wanted of an area at a height. */
interface Wanted {
  /** The parts of a line along the wall (ring 0) or further in that are worth cutting. */
  parts(loop: Loop, ring: number): Loop[];
  /** Whether anything is left to cut in what remains of an area. */
  meets(region: Region): boolean;
  /** At this height the corners of the lines are eased, since the steel beside them is as thick as a side step; else not. */
  ease?: number;
}

class LoopMaker {
  private readonly walls: Walls;
  /** How far around a place curves are traced exactly when the cutter meets steel there, mm. */
  private readonly near: number;
  /** The steel's cells. */
  private readonly standing: RaisedCells;
  /** The steel at the last height. */
  private steel?: SteelAtLevel;

  constructor(
    private readonly input: LevelLoopsInput,
    private readonly cancel?: Cancel,
  ) {
    this.walls = new Walls(input, cancel);
    this.near = NEAR_STEPS * input.grid.step + CELL_SHARE * input.steel.cell;
    this.standing = standingSteel(input.steel, input.spec.piece, this.near);
  }

  at({ only, ...level }: LevelLoopsInput['levels'][number]): LevelLoops {
    this.cancel?.check();
    const { input } = this;
    const steel = this.steelAt(level.z, only);
    if (!steel.any) return { ...level, nests: [], between: [] };
    // where the cutter meets no steel nothing is cut, and a rough curve does
    const trace = this.walls.trace(level.z, this.beside(steel));
    const wall = this.walls.of(trace);
    const nests =
      wall.every((ring) => !touches(ring, input.within)) && !covered(wall, input.within[0]!, input.within[1]!)
        ? openArea(input, steel)
        : this.nests(wall, {
            parts: (loop) => steel.touching(loop, this.freeAt(level.z)),
            meets: (region) => steel.meets(region),
            ...(input.cornerLoad === null || input.pattern === 'lines' ? {} : { ease: level.z }),
          });
    const { pattern } = input;
    const ways = pattern === 'spiral' ? nests.map((nest) => spiralled(nest, this.freeAt(level.z))) : nests;
    return { ...level, nests: ways, between: only ? [] : this.between(level, wall, trace, steel) };
  }

  private steelAt(z: number, only?: Uint8Array): SteelAtLevel {
    const { standing, near } = this;
    const { steel, spec } = this.input;
    if (only) return new SteelAtLevel(steel, z, spec.piece, near, standing.among(only));
    return (this.steel = new SteelAtLevel(steel, z, spec.piece, near, standing, this.steel));
  }

  private beside(steel: SteelAtLevel): Matters {
    const cells = CELL_SHARE * this.input.steel.cell;
    return (x, y, room) => steel.at(x, y, room + cells);
  }

  /**
   * What is cut between a level and the one above it, where the stairs would be too thick.
   *
   * @param steelThere what the cutter touches at the level
   */
  private between(
    { z, above }: Level,
    wall: readonly Polygon[],
    trace: LevelTracer,
    steelThere: SteelAtLevel,
  ): LevelLoops['between'] {
    const { input } = this;
    const { stairs: thickest } = input;
    if (thickest === null) return [];
    const stairs = new Stairs(input.grid, wall, z);
    return betweenLevels(z, above, thickest).flatMap(({ z: at, stair }) => {
      this.cancel?.check();
      const within = stairs.thinWithin(at, stair, thickest);
      if (within === Infinity) return [];
      const covers: Matters = (x, y, room) => !stairs.isOver(x, y) || stairs.isNear(x, y, within, room);
      // higher up the cutter touches no more than at the level
      let steel = steelThere;
      const touches = (x: number, y: number): boolean => steel.at(x, y);
      const cells = CELL_SHARE * input.steel.cell;
      const matters: Matters = (x, y, room) => steel.at(x, y, room + cells);
      const upper = this.walls.trace(at, matters, { trace, within, covers });
      if (!this.walls.leavesBelow(upper, touches)) return [];
      steel = this.steelAt(at);
      if (!steel.any || !this.walls.leavesBelow(upper, touches)) return [];
      const border = this.walls.of(upper);
      const stands = (x: number, y: number): boolean => stairs.isOver(x, y) && steel.at(x, y);
      const isThick = (x: number, y: number): boolean => stands(x, y) && !stairs.isNear(x, y, within);
      // a stair is thickest at its border
      if (!border.some((line) => someAlong(line, isThick))) return [];
      const options = { radius: input.radius, gap: input.radius, ...this.freeAt(at) };
      const nests = this.nests(border, {
        parts: (loop, ring) => partsOf(loop, ring > 0 ? stands : isThick, options),
        meets: (region) => [region.outer, ...region.holes].some((line) => someAlong(line, stands)),
      });
      return nests.length > 0 ? [{ z: at, nests }] : [];
    });
  }

  private nests(wall: readonly Polygon[], wanted: Wanted): Nest[] {
    const { ae, within, pattern, cornerRadius } = this.input;
    const most = pattern === 'lines' ? MOST_RINGS : (this.input.wallLoops ?? MOST_RINGS);
    const roots: Nest[] = [];
    let outerRing: Nest[] = [];
    let free = FreeArea.outside(wall, within);
    for (let ring = 0; ring < most; ring++) {
      // each ring from the one before it: its corners are round and its notches closed already
      const before = free;
      if (ring > 0) free = before.smaller(ae, cornerRadius);
      const missed = ring > 0 ? [...this.missedByRounding(before, free), ...this.missedBetween(before, free)] : [];
      const nests: Nest[] = [];
      for (const region of [...free.regions, ...missed]) {
        const parent = ring === 0 ? undefined : outerRing.find((n) => holds(n.region, region));
        if (ring > 0 && !parent) continue;
        const loops = linesOf(region, within, this.input.direction).flatMap((loop) => wanted.parts(loop, ring));
        const nest: Nest = { region, loops, inner: [], borderFirst: this.isBorderFirst(region) };
        if (wanted.ease !== undefined && loops.length > 0) nest.relief = this.relief(region, wanted.ease, wanted, ring);
        (parent ? parent.inner : roots).push(nest);
        nests.push(nest);
      }
      outerRing = nests.filter((n) => wanted.meets(n.region));
      if (outerRing.length === 0) break;
      free = free.limitedTo(outerRing.map((n) => n.region));
      if (pattern === 'lines') {
        this.fillWithLines(outerRing, free, wanted);
        break;
      }
    }
    return roots.filter(isAnyIn);
  }

  /** Where the axis may be at a height. */
  private freeAt(z: number): Pick<PartsOptions, 'isFree' | 'tolerance'> {
    return { isFree: (x, y) => this.walls.isFree(x, y, z), tolerance: this.input.tolerance };
  }

  /** Lines that take the steel out of the inside corners of an area's border. */
  private relief(region: Region, z: number, wanted: Wanted, ring: number): Loop[] {
    const { ae, direction, radius, cornerLoad } = this.input;
    const { outer, holes } = region;
    const { isFree } = this.freeAt(z);
    return [outer, ...holes].flatMap((border) =>
      reliefLines(border, { ae, radius, most: cornerLoad! }, isFree).flatMap((line) => {
        const points = direction === 'conventional' ? reversed(line) : line;
        const loop: Loop = { points, closed: false, either: direction === 'shortest', easing: true };
        return wanted.parts(loop, ring);
      }),
    );
  }

  /** What rounded corners leave beyond the cutter's reach from both neighbouring loops: it gets loops of its own. */
  private missedByRounding(before: FreeArea, rounded: FreeArea): Region[] {
    const { ae, cornerRadius, radius } = this.input;
    const reach = Math.max(0, radius - ae);
    if (cornerRadius <= reach + INNER_SIMPLIFY_MM) return [];
    return beyond(before.smaller(ae), rounded, reach + INNER_SIMPLIFY_MM);
  }

  /** What lies beyond the cutter's reach from a line where no further one follows, for lines more than a radius apart. */
  private missedBetween(before: FreeArea, next: FreeArea): Region[] {
    const { ae, radius } = this.input;
    const reach = radius - INNER_SIMPLIFY_MM;
    return ae <= reach ? [] : beyond(before.smaller(reach), next, reach);
  }

  /** Lines inside each area up to a little before its border, whose loop then cleans up. */
  private fillWithLines(outer: readonly Nest[], free: FreeArea, wanted: Wanted): void {
    const { ae, angle, direction } = this.input;
    for (const region of free.smaller(CLEAN_UP * ae).regions) {
      const parent = outer.find((n) => holds(n.region, region));
      parent?.inner.push(...linesIn(region, angle, evenly(ae), direction, (loop) => wanted.parts(loop, 1)));
    }
  }

  /** Whether the loop along the wall comes first: never in the automatic order, which goes from air or middle to the wall. */
  private isBorderFirst(region: Region): boolean {
    const { pattern, within } = this.input;
    if (pattern === 'auto' || pattern === 'lines' || pattern === 'spiral') return false;
    return (pattern === 'inside-out') === touchesBorder(region.outer, within);
  }
}

function isAnyIn(nest: Nest): boolean {
  return nest.loops.length > 0 || nest.inner.some(isAnyIn);
}

function some(line: Polygon, is: (x: number, y: number) => boolean): boolean {
  for (let k = 0; k < line.length; k += 2) if (is(line[k]!, line[k + 1]!)) return true;
  return false;
}

/** The same for places all along a closed line. */
function someAlong(line: Polygon, is: (x: number, y: number) => boolean): boolean {
  return alongOf(closedUp(line), LOOK_MM).some(([x, y]) => is(x, y));
}

/** What of an area lies farther than `reach` mm from the regions of another. */
function beyond(area: FreeArea, other: FreeArea, reach: number): Region[] {
  const rings = (regions: readonly Region[]): Polygon[] => regions.flatMap((r) => [r.outer, ...r.holes]);
  return subtract(rings(area.regions), offsetPolygons(rings(other.regions), reach)).filter(isArea);
}

/** Whether any point of a curve lies in the plan. */
function touches(ring: Polygon, within: Polygon): boolean {
  return some(ring, (x, y) => contains(within, x, y));
}

/**
 * Where lines over a whole block lie: as few as cover it with the level part of the cutter, and pass its borders by as much as
 * the axis may go further than to touch it.
 */
function acrossBlock({ within, radius, outside, ae, angle, spec }: LevelLoopsInput): LinePlaces {
  const [block] = offsetPolygons([within], -radius - outside);
  const reach = Math.max(spec.piece.flat, ae / 2);
  return (low, high) => {
    if (!block) return [(low + high) / 2];
    const across = Array.from(
      { length: block.length / 2 },
      (_, k) => block[2 * k + 1]! * Math.cos(angle) - block[2 * k]! * Math.sin(angle),
    );
    return covering(Math.min(...across), Math.max(...across), ae, reach, outside);
  };
}

/**
 * A level without any wall: loops from outside the block inward, so that all of them begin in air; or lines across. Nothing where
 * only loops along the wall are asked for.
 */
function openArea(input: LevelLoopsInput, steel: SteelAtLevel): Nest[] {
  const wanted = (loop: Loop): Loop[] => steel.touching(loop, { isFree: () => true, tolerance: 0 });
  if (input.pattern !== 'lines' && input.wallLoops !== null) return [];
  if (input.pattern === 'lines')
    return linesIn({ outer: input.within, holes: [] }, input.angle, acrossBlock(input), input.direction, wanted);
  let inner: Nest[] = [];
  let middle = false;
  for (let ring = 0; ; ring++) {
    let borders = offsetPolygons([input.within], -input.outside - (ring + 1) * input.ae);
    if (borders.length === 0 && !middle) {
      // lines may be so far apart that the last one does not reach the middle
      middle = true;
      borders = offsetPolygons([input.within], -input.outside - ring * input.ae - input.radius + INNER_SIMPLIFY_MM);
    }
    if (borders.length === 0) return inner;
    const nests = borders.map((outer): Nest => {
      const loop: Loop = { points: input.direction === 'conventional' ? outer : reversed(outer), closed: true };
      return { region: { outer, holes: [] }, loops: wanted(loop), inner: [] };
    });
    nests[0]!.inner = inner;
    inner = nests;
  }
}

/** Lines of some levels, one after another. */
export const levelLoopsTask = defineTask('levelLoops', levelLoops);
