import { EsquisseError } from '../../base/errors';
import type { LeftOut, StepContext, StepPlan } from '../../link/context';
import type { Travel } from '../../link/travel';
import { planAround, workspaceOf } from '../../link/workspace';
import { Motion, type PathBuilder } from '../../path/toolpath';
import type { Hole } from '../../survey/features';
import { CutterDrop } from '../../tool/drop';
import { grown, insideFacets } from '../../tool/profile';
import { cutterProfile, slopeDown, type ToolShape } from '../../tool/shape';
import { choiceWords, isMeant } from '../holes/choice';
import { holeOrder } from '../holes/order';
import type { HoleMillingValues } from './values';

/** One cylinder of a hole. */
interface Bore {
  readonly hole: Hole;
  readonly x: number;
  readonly y: number;
  readonly diameter: number;
  readonly through: boolean;
  /** Height of its floor, or of its lower rim, mm. */
  readonly bottom: number;
}

/** A helix has this many chords in a turn at least. */
const FEWEST_CHORDS = 24;
/** Places around a bore at which its floor is held against the part. */
const LOOKS = 24;
/** Turns overlap by the rest of a cutter's level end. */
const MIDDLE_SHARE = 0.9;
/** Radii less than this are none, mm. */
const NOTHING_MM = 1e-3;
/** Chords and rounding may take so much of the part, mm. */
const ROUNDING_MM = 2e-3;

/** The cylinders of holes: a counterbore is one of its own. */
export function boresOf(holes: readonly Hole[]): Bore[] {
  return holes.flatMap((hole): Bore[] => {
    const { x, y, diameter, through, bottom, top, counterbore } = hole;
    const lower: Bore = { hole, x, y, diameter, through, bottom };
    if (!counterbore) return [lower];
    return [lower, { hole, x, y, diameter: counterbore.diameter, through: false, bottom: top - counterbore.depth }];
  });
}

/** @throws EsquisseError `step-impossible` when no hole can be milled */
export async function planHoleMilling(context: StepContext, values: HoleMillingValues): Promise<StepPlan> {
  const { tool, blank } = context;
  const meant = boresOf(context.holes()).filter((bore) => isMeant(bore, values));
  if (meant.length === 0)
    throw new EsquisseError(
      'step-impossible',
      `The part has no upright hole or bore ${choiceWords(values)}: change the diameters, or which holes are meant.`,
      'diameterFrom',
    );
  const { test, begin } = await workspaceOf(context, planAround(blank, tool.DC / 2));
  const { path, travel, finish } = begin();
  const leftOut: LeftOut[] = [];
  const leave = ({ x, y, bottom, diameter }: Bore, why: string): void => {
    leftOut.push({ why: `A hole of ⌀ ${diameter.toFixed(2)} mm is not milled: ${why}`, x, y, z: bottom });
  };
  const wanted = meant.flatMap((bore) => {
    const radius = bore.diameter / 2 - tool.DC / 2 - values.allowance;
    const to = bore.through ? bore.bottom - values.beyond : bore.bottom + values.allowance;
    const opened = bore.diameter - 2 * values.allowance;
    const why =
      radius < NOTHING_MM
        ? `the cutter of ${tool.DC} mm has no room to turn in it`
        : opened < (tool.DMIN ?? 0) - NOTHING_MM
          ? `this cutter opens bores of ${tool.DMIN} mm and above`
          : problemAt(context, bore, radius, to, values, (x, y) => test.forbids(x, y, to));
    if (why === undefined) return [{ bore, radius, to }];
    leave(bore, why);
    return [];
  });
  const made: Bore[] = [];
  for (const k of holeOrder(wanted.map(({ bore }) => bore))) {
    const { bore, radius, to } = wanted[k]!;
    const why = mill(path, travel, bore, radius, to, values, tool);
    if (why === undefined) made.push(bore);
    else leave(bore, why);
  }
  if (made.length === 0)
    throw new EsquisseError('step-impossible', `Nothing is milled. ${leftOut[0]?.why ?? ''}.`, 'diameterFrom');
  return { ...finish(leftOut), facetDepth: Math.max(...made.map(({ hole }) => hole.facetDepth)) };
}

/** What of the part or of what is kept clear stands in the way of the last turn, in words. */
function problemAt(
  { part, tool }: StepContext,
  { x, y, hole }: Bore,
  radius: number,
  to: number,
  { allowance, tolerance }: HoleMillingValues,
  forbids: (x: number, y: number) => boolean,
): string | undefined {
  const piece = grown(cutterProfile(tool), allowance);
  const drop = new CutterDrop(part, {
    ...insideFacets(piece, hole.facetDepth + tolerance + ROUNDING_MM),
    z: -allowance,
  });
  for (let k = 0; k < LOOKS; k++) {
    const a = (2 * Math.PI * k) / LOOKS;
    const [px, py] = [x + radius * Math.cos(a), y + radius * Math.sin(a)];
    const rest = drop.at(px, py, to);
    if (rest > to + ROUNDING_MM) return `something of the part stands ${(rest - to).toFixed(2)} mm over its floor`;
    if (forbids(px, py)) return 'it is kept clear of there';
  }
  return undefined;
}

/** Mills one bore, from the middle outward; says why when it does not. */
function mill(
  path: PathBuilder,
  travel: Travel,
  { x, y }: Bore,
  radius: number,
  to: number,
  values: HoleMillingValues,
  { DC, RE, RMPX, DMIN = 0, APMX: flutes }: ToolShape,
): string | undefined {
  const { pitch, direction, tolerance } = values;
  const turn = direction === 'climb' ? 1 : -1;
  const radii = radiiTo(radius, Math.max(DC / 2 - RE, DC / 20), values, (DMIN - DC) / 2);
  const under = travel.topWithin(x, y, radius + DC / 2) - to;
  if (under > flutes) return `its end is ${under.toFixed(1)} mm under the steel, and the flutes are ${flutes} mm long`;
  for (const [k, r] of radii.entries()) {
    const from = Math.max(to, travel.startHeight(x + r, y));
    travel.crossTo(x + r, y, from);
    const start = path.last![2];
    const chords = Math.max(
      FEWEST_CHORDS,
      Math.ceil(Math.PI / Math.acos(Math.max(-1, 1 - tolerance / Math.max(r, tolerance)))),
    );
    const deepest = 2 * Math.PI * r * slopeDown(90, { RMPX });
    const turns = Math.max(1, Math.ceil((start - to) / Math.min(pitch, deepest) - 1e-9));
    const kind = k === 0 ? Motion.entry : Motion.cut;
    const n = turns * chords;
    // down the helix, then once round on the floor
    for (let i = 1; i <= n + chords; i++) {
      const a = (turn * 2 * Math.PI * i) / chords;
      const z = i < n ? start - ((start - to) * i) / n : to;
      travel.feed(x + r * Math.cos(a), y + r * Math.sin(a), z, i <= n ? kind : Motion.cut);
    }
    // off the wall on half a circle, then up in the middle
    for (let i = 1; i <= chords / 2; i++) {
      const a = (turn * 2 * Math.PI * i) / chords;
      travel.feed(x + (r / 2) * (1 + Math.cos(a)), y + (r / 2) * Math.sin(a), to, Motion.exit);
    }
    travel.feed(x, y, to, Motion.exit);
    path.to(x, y, start, Motion.rapid);
  }
  return undefined;
}

/**
 * Radii of the axis' turns, from the first to the last, mm: the first leaves nothing standing in the middle.
 *
 * @param flat radius of the cutter's level end
 * @param least the first is no smaller, mm
 */
export function radiiTo(
  last: number,
  flat: number,
  { ae, finish }: Pick<HoleMillingValues, 'ae' | 'finish'>,
  least = 0,
): number[] {
  const rough = Math.max(Math.min(least, last), last - Math.min(finish, last - NOTHING_MM));
  const first = Math.min(rough, Math.max(least, Math.min(ae, MIDDLE_SHARE * flat)));
  const steps = Math.ceil((rough - first) / Math.min(ae, 2 * MIDDLE_SHARE * flat) - 1e-9);
  const radii = Array.from({ length: steps + 1 }, (_, k) => first + (steps > 0 ? ((rough - first) * k) / steps : 0));
  // a wide helix leaves a post in the middle, as high as the corner of the cutter: from outside inward
  const level = MIDDLE_SHARE * flat;
  const inside = Math.ceil((first - level) / (2 * level) - 1e-9);
  const inner = Array.from({ length: Math.max(0, inside) }, (_, k) => first - ((first - level) * (k + 1)) / inside);
  radii.splice(1, 0, ...inner);
  return finish > 0 && rough < last - NOTHING_MM ? [...radii, last] : radii;
}
