import { EsquisseError } from '../../base/errors';
import type { TipSurfaceSpec } from '../../field/tipSurface';
import { lengthOf, nearestOn } from '../../geometry/polygon';
import { closedUp } from '../../levels/loop';
import type { LeftOut, StepContext, StepPlan } from '../../link/context';
import { planAround, workspaceOf } from '../../link/workspace';
import type { WearSpan } from '../../path/wear';
import { leftBySteel } from '../../passes/leftBySteel';
import { insideFacets } from '../../tool/profile';
import { cutterProfile, slopeDown } from '../../tool/shape';
import { type Bridges, bridgePlaces } from './bridges';
import { BRIDGE_DEG, WallCutter } from './round';
import type { ProfileValues } from './values';
import { heightsOf, type Wall, wallsBeside, type WallsFound } from './walls';

/** A wall that ends this near to the part's underside is passed through, mm. */
const SAME_MM = 1e-2;

/** @throws EsquisseError `step-impossible` when no wall can be milled */
export async function planProfile(context: StepContext, values: ProfileValues): Promise<StepPlan> {
  const { part, tool } = context;
  if (values.ap > tool.APMX)
    throw new EsquisseError(
      'step-impossible',
      `The flutes are ${tool.APMX} mm long: a depth of ${values.ap} mm is more than they cut.`,
      'ap',
    );
  if (values.wear === 'control' && values.leadLength <= 0)
    throw new EsquisseError(
      'step-impossible',
      'The control takes wear in on a straight beside the lead: give it a length.',
      'leadLength',
    );
  const heights = heightsOf(part, values);
  if (heights.length === 0)
    throw new EsquisseError(
      'step-impossible',
      'The lower height lies above the upper one, or above the part.',
      'bottom',
    );
  const last = specFor(context, values, 0);
  const workspace = await workspaceOf(context, planAround(part.box, reachOf(last, values)));
  const find = (spec: TipSurfaceSpec, mostSteel: number, isLast: boolean): Promise<WallsFound> =>
    wallsBeside(context, workspace, spec, heights, values, { mostSteel, isLast }, context.progress);
  const { count, along } = await passesFor(values, tool.DC, (n) =>
    find(last, values.mostSteel + awayOf(n - 1, values), true),
  );
  // what the passes before one take off does not count
  const passes: SidePass[] = [];
  for (let k = 0; k < count - 1; k++) {
    const away = awayOf(count - 1 - k, values);
    const spec = specFor(context, values, away);
    const mostSteel = values.mostSteel + awayOf(count - 1, values) - away;
    passes.push({ spec, mostSteel, found: await find(spec, mostSteel, false) });
  }
  passes.push({ spec: last, mostSteel: values.mostSteel + awayOf(count - 1, values), found: along });
  if (along.walls.length === 0) throw noWalls(values, along.stopped.length > 0);
  const bridges = bridgesOf(context, values, along.walls);
  const leftOut: LeftOut[] = leftBySteel(passes.flatMap(({ found }) => found.stopped));
  const growing = workspace.begin();
  const wear: WearSpan[] = [];
  for (const { spec, mostSteel, found } of passes) {
    const cutter = new WallCutter(context, growing, workspace.test, spec, values, mostSteel);
    const open = [...found.walls];
    while (open.length > 0) {
      const wall = cutter.cornered(takeNext(open, growing.path.last));
      const times = found === along ? 1 + values.springs : 1;
      const why = cutter.cut(wall, times, isThrough(context, wall) ? bridges : undefined, wear);
      if (why === undefined) continue;
      const [x, y] = [wall.points[0]!, wall.points[1]!];
      leftOut.push({ why: `A wall is not milled: ${why}`, x, y, z: wall.bottom });
    }
  }
  if (growing.path.length === 0) throw new EsquisseError('step-impossible', `${leftOut[0]!.why}.`, 'leadRadius');
  for (const [x, y] of bridges?.places ?? []) leftOut.push({ why: 'A bridge, left on purpose', x, y, z: bridges!.top });
  const plan = growing.finish(leftOut);
  return wear.length > 0 ? { ...plan, path: { ...plan.path, wear } } : plan;
}

/** How far from the part the axis may come, on side passes and on leads, mm. */
function reachOf({ piece, side }: TipSurfaceSpec, { leadRadius, leadLength, overlap }: ProfileValues): number {
  // steel as thick as the radius beside the first side pass, and open lines begun a diameter farther off
  return piece.radius + side + 4 * piece.radius + leadRadius + leadLength + overlap;
}

/** A side pass: the walls with what is left on them, and the thickest steel that it may meet, mm. */
interface SidePass {
  readonly spec: TipSurfaceSpec;
  readonly mostSteel: number;
  readonly found: WallsFound;
}

/** How far from the last side pass the one lies that has so many after it, mm. */
const awayOf = (after: number, { ae, lastAe }: Pick<ProfileValues, 'ae' | 'lastAe'>): number =>
  after === 0 ? 0 : (lastAe ?? ae) + (after - 1) * ae;

/** How many side passes there are, and what the last of them finds: the fewest that cut as much as any number would. */
async function passesFor(
  values: ProfileValues,
  DC: number,
  findWith: (count: number) => Promise<WallsFound>,
): Promise<{ count: number; along: WallsFound }> {
  const { passes, mostSteel } = values;
  if (passes !== null) return { count: passes, along: await findWith(passes) };
  const one = await findWith(1);
  if (one.stopped.length === 0) return { count: 1, along: one };
  // steel as thick as the cutter's radius is no longer beside it
  let high = 1;
  while (mostSteel + awayOf(high, values) < DC / 2) high++;
  let along = await findWith(high);
  const most = lengthOfAll(along);
  let low = 1;
  if (lengthOfAll(one) >= most - SAME_MM) return { count: 1, along: one };
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    const found = await findWith(middle);
    if (lengthOfAll(found) < most - SAME_MM) low = middle;
    else [high, along] = [middle, found];
  }
  return { count: high, along };
}

function lengthOfAll({ walls }: WallsFound): number {
  let sum = 0;
  for (const { points, closed } of walls) sum += lengthOf(closed ? closedUp(points) : points);
  return sum;
}

/** The surface of the tip for a side pass so far from the wall; below it the cutter counts as slimmer. */
function specFor(
  { part, tool }: StepContext,
  { allowance, bottomAllowance }: ProfileValues,
  away: number,
): TipSurfaceSpec {
  const piece = cutterProfile(tool);
  const side = allowance + away;
  if (side >= 0) return { mesh: part, piece, side, floor: bottomAllowance };
  if (-side >= piece.radius)
    throw new EsquisseError('step-impossible', 'The cutter is no wider than it is to go below the wall.', 'allowance');
  return { mesh: part, piece: insideFacets(piece, -side), side: 0, floor: bottomAllowance };
}

const isThrough = ({ part }: StepContext, { bottom, closed, isOuter }: Wall): boolean =>
  closed && isOuter && bottom <= part.box.minZ + SAME_MM;

function bridgesOf(
  context: StepContext,
  { tabs, tabWidth, tabHeight, rampDeg }: ProfileValues,
  walls: readonly Wall[],
): Bridges | undefined {
  if (tabs === 0) return undefined;
  const through = walls.filter((wall) => isThrough(context, wall));
  if (through.length === 0)
    throw new EsquisseError(
      'step-impossible',
      'No outer wall is cut through: there is nothing to leave bridges at.',
      'tabs',
    );
  return {
    places: through.flatMap(({ points }) => bridgePlaces(points, tabs)),
    half: tabWidth / 2 + context.tool.DC / 2,
    top: context.part.box.minZ + tabHeight,
    slope: slopeDown(rampDeg ?? BRIDGE_DEG, context.tool),
  };
}

function noWalls({ which, fromSlopeDeg }: ProfileValues, isSteel: boolean): EsquisseError {
  if (isSteel)
    return new EsquisseError(
      'step-impossible',
      'Steel thicker than the stock limit stands beside all walls: open them up first, or give more side passes.',
      'mostSteel',
    );
  const kind = which === 'outer' ? 'outer wall' : which === 'inner' ? 'wall of a closed area' : 'wall';
  return new EsquisseError(
    'step-impossible',
    `No ${kind} steeper than ${fromSlopeDeg}° is reached between the heights and within the limits.`,
    'which',
  );
}

/** Takes the wall that is nearest to where the tool is; of those above one another the highest. */
function takeNext(open: Wall[], at: readonly [number, number, number] | undefined): Wall {
  const away = ({ points, closed }: Wall): number => (at ? nearestOn(points, at[0], at[1], closed).distance : 0);
  const high = Math.max(...open.map(({ bottom }) => bottom));
  // a wall lower down is only cut when those over it are
  const next = open.filter(({ bottom }) => bottom >= high - SAME_MM).reduce((a, b) => (away(b) < away(a) ? b : a));
  open.splice(open.indexOf(next), 1);
  return next;
}
