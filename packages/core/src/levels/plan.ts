import { cutterProfile } from '../tool/shape';
import { grown, type RoundPiece } from '../tool/profile';
import { EsquisseError } from '../base/errors';
import { spansOf, together } from '../crew/crew';
import { CURVE_MM } from '../field/levelCurves';
import { type TipGrid, tipGridOver, TipSurface, type TipSurfaceSpec } from '../field/tipSurface';
import { coarseMap } from '../steel/coarse';
import type { HeightMap } from '../steel/heightMap';
import type { StepContext, StepPlan } from '../link/context';
import { OUTSIDE_MM, type PlanBox, planAround, ringOf, type Workspace, workspaceOf } from '../link/workspace';
import { SAMPLING_TASKS, sampleTipSurface } from '../field/sampling';
import { LevelCutter } from './cutting';
import { cellsOver, flatsOf, type Level, levelsOf, lowestTip } from './heights';
import type { Nest } from './loop';
import { type LevelLoops, type LevelLoopsInput, levelLoopsTask } from './loops';
import type { WallsInput } from './walls';
import { holds } from './regions';
import type { LevelValues } from './values';

/**
 * Step of the grid on which level curves are looked for, mm. What stands up in the part shows at least as wide as the
 * cutter's flat, so a wide flat allows a wider step; islands and openings below it can be missed.
 */
const GRID_MM = 0.5;
const WIDEST_GRID_MM = 0.8;
/** Cells of the coarse map by which it is told what stands over flats and lines, in cells of the steel. */
const COARSE = 2;
/** Levels that one worker takes at a time: what it learns about the walls at one serves the next. */
const BATCH = 6;
/** A flat is worth a level of its own from this share of DC squared. */
const SMALLEST_FLAT = 0.25;

/** What planning levels hands to the crew. */
export const LEVEL_TASKS = [...SAMPLING_TASKS, levelLoopsTask] as const;

/** The steel before a step, and what of it is to be cut: all, or only where it stands in a region. */
export interface SteelToCut {
  stock: HeightMap;
  toCut: HeightMap;
}

/** The same where all steel is to be cut. */
export const allSteel =
  ({ steel }: StepContext) =>
  (): Promise<SteelToCut> =>
    Promise.resolve({ stock: steel, toCut: steel });

/** Levels from the top down, between the lowest that the tip reaches and the highest steel, mm. */
export type LevelHeights = (context: StepContext, values: LevelValues, lowest: number, highest: number) => Level[];

/** What levels are planned on. */
export interface LevelGround extends Workspace, SteelToCut {
  readonly piece: RoundPiece;
  readonly spec: TipSurfaceSpec;
  readonly surface: TipSurface;
  readonly grid: TipGrid;
  /** Where the axis may go without limits. */
  readonly around: PlanBox;
  /** Lowest height that the tip reaches, mm. */
  readonly lowest: number;
}

/** @param steelToCut looked for while the tip surface is sampled */
export async function levelGround(
  context: StepContext,
  values: Omit<LevelValues, 'pattern'>,
  steelToCut: () => Promise<SteelToCut>,
): Promise<LevelGround> {
  const { part, tool, crew } = context;
  if (values.entry === 'plunge' && !tool.centreCutting)
    throw new EsquisseError(
      'step-impossible',
      'This cutter does not cut over its centre, so it cannot go straight down: choose a helix or a ramp.',
      'entry',
    );
  const piece = cutterProfile(tool);
  if (values.cornerRadius > piece.radius)
    throw new EsquisseError(
      'step-impossible',
      `Corners of inner loops can be rounded to the cutter's radius of ${piece.radius} mm at most.`,
      'cornerRadius',
    );
  const spec = { mesh: part, piece, side: values.sideAllowance, floor: values.floorAllowance };
  const surface = new TipSurface(spec);
  const grid = tipGridOver(part.box, surface.reach + 1, Math.min(WIDEST_GRID_MM, Math.max(GRID_MM, piece.flat / 4)));
  const [{ stock, toCut }] = await together(
    steelToCut(),
    sampleTipSurface(grid, spec, crew, (share) => context.progress(0.3 * share)),
  );
  const around = planAround(blankOf(context), piece.radius);
  const leaves = Math.max(values.sideAllowance, values.floorAllowance);
  const workspace = await workspaceOf(context, around, stock, leaves);
  const forbids = (x: number, y: number, z: number): boolean => workspace.test.forbids(x, y, z);
  const lowest = lowestTip(grid, part.box, grown(piece, values.sideAllowance), forbids);
  return { ...workspace, stock, toCut, piece, spec, surface, grid, around, lowest };
}

/** What of the lines of levels follows from the values and the cutter's radius. */
export function levelLines(
  values: LevelValues,
  radius: number,
): Omit<LevelLoopsInput, keyof WallsInput | 'levels' | 'within' | 'steel'> {
  const { ae, stairs, cornerRadius, cornerLoadDeg, pattern, wallLoops, angleDeg, direction } = values;
  return {
    ...{ ae, stairs, cornerRadius, pattern, wallLoops, direction, radius },
    cornerLoad: cornerLoadDeg === null ? null : (cornerLoadDeg * Math.PI) / 180,
    angle: (angleDeg * Math.PI) / 180,
    outside: OUTSIDE_MM,
  };
}

/**
 * Levels from the top down.
 *
 * @param steelToCut looked for while the tip surface is sampled
 * @param heights which levels are cut
 */
export async function planLevels(
  context: StepContext,
  values: LevelValues,
  steelToCut: () => Promise<SteelToCut>,
  heights: LevelHeights = heightsOf,
): Promise<StepPlan> {
  const { part, crew } = context;
  const ground = await levelGround(context, values, steelToCut);
  const { surface, spec, grid, piece, around, bounds, test, begin, toCut, lowest } = ground;
  const { path, travel, finish } = begin();
  const steel = coarseMap(toCut, COARSE);
  const levels = heights(context, values, lowest, highest(toCut.heights));
  const batches = spansOf(levels.length, Math.ceil(levels.length / BATCH));
  const cutter = new LevelCutter(
    path,
    travel,
    (x, y, z) => surface.forbids(x, y, z) || test.forbids(x, y, z),
    { radius: piece.radius, corner: piece.corner, RMPX: context.tool.RMPX, DMIN: context.tool.DMIN },
    values,
    context.drilled,
  );
  await crew.inTurn(
    levelLoopsTask,
    batches.map(([from, to]) => ({
      grid,
      spec,
      bounds,
      levels: levels
        .slice(from, to)
        .map((level) => (level.flat === undefined ? level : { ...level, only: cellsOver(part, level.flat, steel) })),
      tolerance: curveTolerance(values),
      ...levelLines(values, piece.radius),
      within: ringOf(around),
      steel,
    })),
    async (result) => {
      const at = async (k: number): Promise<LevelLoops | undefined> => {
        const batch = batches.findIndex(([from, to]) => k >= from && k < to);
        return batch < 0 ? undefined : (await result(batch))[k - batches[batch]![0]];
      };
      await cutAll(cutter, at, values.order === 'depth', () => crew.cancel.check());
    },
    (done) => context.progress(0.3 + (0.6 * done) / batches.length),
  );
  return finish(cutter.leftOut);
}

/**
 * Cuts the levels from the top down; or, by depth, what lies in one area of a level down to its floor before the next area.
 * An area at a level lies in one area of every level above, since what the tip may reach only shrinks downward.
 */
async function cutAll(
  cutter: LevelCutter,
  at: (k: number) => Promise<LevelLoops | undefined>,
  byDepth: boolean,
  check: () => void,
): Promise<void> {
  const levels: Waiting[] = [];
  /** A level, as soon as its lines are there; undefined below the last one. */
  const levelAt = async (k: number): Promise<Waiting | undefined> => {
    const known = levels[k];
    if (known) return known;
    const level = await at(k);
    return (
      level && (levels[k] = { level, nests: new Set(level.nests), between: level.between.map((b) => new Set(b.nests)) })
    );
  };
  const isIn = (outer: Nest, inner: Nest): boolean => holds(outer.region, inner.region);
  const take = (from: Set<Nest>, is: (nest: Nest) => boolean): Nest[] => {
    const taken = [...from].filter(is);
    for (const nest of taken) from.delete(nest);
    return taken;
  };
  /** What lies between a level and the one above it, lowest first. */
  const between = ({ level, between: left }: Waiting, is: (nest: Nest) => boolean): void =>
    level.between.forEach(({ z }, b) => cutter.between(level, z, take(left[b]!, is)));
  /** @param inside area of a level above that all is to lie in; everywhere when left out */
  const visit = async (k: number, inside: Nest | undefined): Promise<void> => {
    check();
    const own = await levelAt(k);
    if (!own) return;
    const { level } = own;
    const waiting = take(own.nests, (n) => !inside || isIn(inside, n));
    if (!byDepth) {
      cutter.level(level, waiting);
      between(own, () => true);
      return;
    }
    while (waiting.length > 0) {
      const nest = cutter.takeNext(waiting);
      cutter.level(level, [nest]);
      // a stair over several areas waits for the last of them
      between(own, (b) => isIn(b, nest) && !waiting.some((n) => isIn(b, n)));
      // a level over a flat alone tells nothing of the areas beside it
      if (level.flat === undefined) await visit(k + 1, nest);
    }
    if (level.flat !== undefined) await visit(k + 1, inside);
    between(own, (b) => !inside || isIn(inside, b));
  };
  for (let k = 0; await levelAt(k); k++) await visit(k, undefined);
}

/** A level and what of it is still to be cut. */
interface Waiting {
  level: LevelLoops;
  nests: Set<Nest>;
  between: Set<Nest>[];
}

/** @throws EsquisseError `step-impossible` when the heights leave no level */
export function heightsOf(
  context: LevelsIn,
  values: Pick<LevelValues, 'top' | 'bottom' | 'ap' | 'firstAp' | 'flats' | 'floorAllowance'>,
  lowest: number,
  highest: number,
): Level[] {
  const { top, bottom } = rangeOf(context, values, lowest, highest);
  return levelsOf(top, bottom, values.ap, levelFlats(context, values), values.flats, values.firstAp);
}

type LevelsIn = Pick<StepContext, 'part' | 'tool' | 'steel'>;

/** How far lines at a level may be off, mm: where little is left, less. */
export function curveTolerance({
  tolerance,
  sideAllowance,
  floorAllowance,
}: Pick<LevelValues, 'tolerance' | 'sideAllowance' | 'floorAllowance'>): number {
  return Math.min(tolerance, CURVE_MM + Math.min(sideAllowance, floorAllowance));
}

/** From where down to where levels are cut, mm. @throws EsquisseError `step-impossible` when that leaves none */
export function rangeOf(
  { steel }: LevelsIn,
  values: Pick<LevelValues, 'top' | 'bottom'>,
  lowest: number,
  highest: number,
): { top: number; bottom: number } {
  const top = Math.min(values.top ?? Infinity, highest);
  // beside the part a cutter goes deeper than it does over it, where that is asked for
  const bottom = Math.max(values.bottom ?? lowest, steel.floor);
  if (bottom < top) return { top, bottom };
  throw new EsquisseError(
    'step-impossible',
    Number.isFinite(bottom)
      ? `There is no level to cut: the lowest height is ${bottom.toFixed(3)} mm and the highest ${top.toFixed(3)} mm.`
      : 'The cutter does not fit anywhere over the part with this allowance and within its limits.',
    'bottom',
  );
}

/** The flats that are worth a height of their own, raised by the allowance, with their own height beside, mm. */
export function levelFlats(
  { part, tool }: LevelsIn,
  values: Pick<LevelValues, 'flats' | 'floorAllowance'>,
): { z: number; flat: number }[] {
  if (values.flats === 'none') return [];
  return flatsOf(part, SMALLEST_FLAT * tool.DC ** 2).map((flat) => ({ z: flat + values.floorAllowance, flat }));
}

/** The highest of a map's heights, mm. */
export function highest(heights: Float32Array): number {
  let top = -Infinity;
  for (const h of heights) if (h > top) top = h;
  return top;
}

/** The blank in plan view. */
function blankOf({ steel: { x0, y0, cell, nx, ny } }: StepContext): PlanBox {
  return { minX: x0, minY: y0, maxX: x0 + nx * cell, maxY: y0 + ny * cell };
}
