import { EsquisseError } from '../base/errors';
import { spansOf } from '../crew/crew';
import type { LeftOut, StepContext, StepPlan } from '../link/context';
import { ringOf } from '../link/workspace';
import type { Travel } from '../link/travel';
import { alongOf } from '../levels/loop';
import { Entries, type EntryCutter, leastHelix } from '../levels/entries';
import { levelsOf } from '../levels/heights';
import { curveTolerance, highest, levelFlats, levelGround, rangeOf, type SteelToCut } from '../levels/plan';
import type { RoughingValues } from '../levels/values';
import { Motion } from '../path/toolpath';
import type { Run } from './clearing';
import { type SteadyLevel, steadyLevelsTask, type SteadyResult } from './steadyLevels';

/** Values of passes of steady load. */
export type SteadyValues = Omit<RoughingValues, 'pattern'>;

/** What planning passes of steady load hands to the crew. */
export const STEADY_TASKS = [steadyLevelsTask] as const;

/** Least radius of the path and largest radius of helices where none is given, as shares of DC. */
const LEAST_RADIUS = 0.05;
const WIDEST_HELIX = 0.4;
const NARROWEST_HELIX = 0.1;
/** Heights of flats nearer to a level than this are no heights of their own, mm. */
const SAME_MM = 1e-3;
/** Steel that stands higher than the level above by more than this and the corner radius was left out up there, mm. */
const TALLER_MM = 0.5;
/** As far inside the cutter's rim, mm. */
const INSIDE_RIM_MM = 1.5;
/** A way begins where the last run ended, but for what that was moved off the wall, mm. */
const ON_WAY_MM = 0.3;
/** Ways shorter than so many side steps are not lifted. */
const LIFTED_FROM = 2;

/** The load asked for as an engagement angle, rad: a straight cut of width ae has ae = R (1 - cos T) (ISO 3002-3). */
export function steadyLoad(ae: number, radius: number): number {
  return Math.acos(Math.max(-1, 1 - ae / radius));
}

/**
 * The levels that are cleared at full depth, evened out, with the flats between each and the one above it.
 *
 * @throws EsquisseError `step-impossible` when the heights leave no level
 */
export function steadyLevelsOf(
  context: Pick<StepContext, 'part' | 'tool' | 'steel'>,
  values: Pick<SteadyValues, 'top' | 'bottom' | 'ap' | 'firstAp' | 'flats' | 'floorAllowance'>,
  lowest: number,
  highest: number,
): SteadyLevel[] {
  const { top, bottom } = rangeOf(context, values, lowest, highest);
  const flats = levelFlats(context, values);
  return levelsOf(top, bottom, values.ap, [], 'even', values.firstAp).map(({ z, above }) => ({
    z,
    above,
    flats: flats
      .map((flat) => flat.z)
      .filter((flat) => flat > z + SAME_MM && flat < above - SAME_MM)
      .sort((a, b) => a - b),
  }));
}

/**
 * Levels at full depth by passes of steady load, and on the way up from each what would stand too thick.
 *
 * @param steelToCut looked for while the tip surface is sampled
 */
export async function planSteady(
  context: StepContext,
  values: SteadyValues,
  steelToCut: () => Promise<SteelToCut>,
): Promise<StepPlan> {
  const { tool, crew } = context;
  const radius = tool.DC / 2;
  if (values.ae > radius)
    throw new EsquisseError(
      'step-impossible',
      `A steady load needs a radial depth of at most half the cutter, ${radius} mm: beyond it the cutter is loaded to its middle.`,
      'ae',
    );
  for (const key of ['ap', 'firstAp'] as const)
    if ((values[key] ?? 0) > tool.APMX)
      throw new EsquisseError(
        'step-impossible',
        `The edges of this cutter are ${tool.APMX} mm long: it cannot cut ${values[key]} mm deep.`,
        key,
      );
  const ground = await levelGround(context, values, steelToCut);
  const { grid, spec, bounds, around, toCut, lowest, surface, test, piece, begin } = ground;
  const { travel, finish } = begin();
  const levels = steadyLevelsOf(context, values, lowest, highest(toCut.heights));
  const cutter = new SteadyCutter(
    travel,
    values,
    { radius: piece.radius, corner: piece.corner, RMPX: tool.RMPX, DMIN: tool.DMIN },
    (x, y, z) => surface.forbids(x, y, z) || test.forbids(x, y, z),
    context,
  );
  const batches = spansOf(levels.length, levels.length);
  const narrowest = leastHelix({ diameter: tool.DC, DMIN: tool.DMIN });
  const turn = values.leastRadius ?? LEAST_RADIUS * tool.DC;
  await crew.inTurn(
    steadyLevelsTask,
    batches.map(([from, to]) => ({
      grid,
      spec,
      bounds,
      tolerance: curveTolerance(values),
      levels: levels.slice(from, to),
      within: ringOf(around),
      steel: toCut,
      piece,
      load: steadyLoad(values.ae, radius),
      turn,
      side: values.direction === 'conventional' ? (-1 as const) : (1 as const),
      both: values.direction === 'shortest',
      helix: {
        least: Math.max(narrowest, NARROWEST_HELIX * tool.DC, values.smallestOpening / 2 - radius),
        most: Math.max(narrowest, values.helixRadius ?? WIDEST_HELIX * tool.DC),
      },
      stairs: values.stairs,
    })),
    async (result) => {
      for (let k = 0; k < batches.length; k++) {
        for (const level of await result(k)) cutter.level(level);
        crew.cancel.check();
      }
    },
    (done) => context.progress(0.3 + (0.6 * done) / batches.length),
  );
  return finish(cutter.leftOut);
}

/** Turns runs into motions. */
class SteadyCutter {
  readonly leftOut: LeftOut[] = [];
  private readonly entries: Entries;
  private readonly middle: number;

  constructor(
    private readonly travel: Travel,
    private readonly values: SteadyValues,
    private readonly cutter: { radius: number; corner: number } & Pick<EntryCutter, 'RMPX' | 'DMIN'>,
    forbids: (x: number, y: number, z: number) => boolean,
    { drilled }: Pick<StepContext, 'drilled'>,
  ) {
    const { radius, corner, RMPX, DMIN } = cutter;
    this.middle = Math.max(radius / 4, radius - INSIDE_RIM_MM);
    const rim = TALLER_MM + corner;
    this.entries = new Entries(
      travel,
      forbids,
      { diameter: 2 * radius, middle: this.middle, ridge: TALLER_MM, rim, RMPX, DMIN },
      values,
      drilled,
    );
  }

  level({ above, heights, left }: SteadyResult): void {
    for (const height of heights) for (const run of height.runs) this.run(run, height.z, above);
    for (const { volume, ...place } of left)
      this.leftOut.push(
        volume === undefined
          ? { why: 'The wall keeps the cutter off', ...place }
          : { why: 'Opening too narrow for passes of steady load', ...place, volume },
      );
  }

  private run({ begin, points }: Run, z: number, above: number): void {
    if (points.length === 0) return;
    if (this.isBuried(points, above)) {
      this.leftOut.push({ why: 'Steel left at a level above stands over it', x: points[0]!, y: points[1]!, z });
      return;
    }
    const { travel, entries } = this;
    if (begin.by === 'helix') entries.helix(begin.x, begin.y, z, begin.radius, begin.way);
    else if (!(begin.by === 'way' && this.along(begin.points, z))) entries.descend(points[0]!, points[1]!, z);
    for (let k = 0; k < points.length; k += 2) {
      const at = travel.at;
      if (at && at[0] === points[k]! && at[1] === points[k + 1]! && at[2] === z) continue;
      travel.feed(points[k]!, points[k + 1]!, z, Motion.cut);
    }
  }

  /** Through air to where a run begins, a little lifted; not when the way is too long. */
  private along(way: Float64Array, z: number): boolean {
    const { travel, values } = this;
    const at = travel.at;
    if (!at || at[2] > z + SAME_MM || Math.hypot(at[0] - way[0]!, at[1] - way[1]!) > ON_WAY_MM) return false;
    let length = 0;
    for (let k = 2; k < way.length; k += 2) length += Math.hypot(way[k]! - way[k - 2]!, way[k + 1]! - way[k - 1]!);
    if (length > (values.longestWay ?? travel.gap ?? Infinity)) return false;
    const height = z + (length > LIFTED_FROM * values.ae ? values.lift : 0);
    if (height > at[2]) travel.feed(at[0], at[1], height, Motion.link);
    for (let k = 2; k < way.length; k += 2) travel.feed(way[k]!, way[k + 1]!, height, Motion.link);
    return true;
  }

  /** Whether steel stands higher over a line than one level. */
  private isBuried(points: Float64Array, above: number): boolean {
    const tallest = above + this.cutter.corner + TALLER_MM;
    return alongOf(points, this.middle).some(([x, y]) => this.travel.standsAbove(tallest, x, y, this.middle));
  }
}
