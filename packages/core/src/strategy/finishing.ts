import { z } from 'zod';
import { EsquisseError } from '../base/errors';
import { toThousandth } from '../base/round';
import type { TipSurfaceSpec } from '../field/tipSurface';
import type { StepContext } from '../link/context';
import { type RestOf, restSpec, type WantedSpec } from '../field/wanted';
import { scallopOf, sideStepFor } from '../passes/scallop';
import type { CutOf } from '../tool/cuts';
import { cutterProfile, type ToolShape } from '../tool/shape';
import { FINISHING_DEPTH } from '../tool/usual';
import type { Pattern } from '../passes/density';
import { below, type Expected, type ExpectContext, passesOver, ridgesBelow } from './expected';
import type { Field, Values } from './kind';

/** Values that finishing kinds have in common; lengths in mm. What older jobs do not tell is as it was for them. */
/** Deepest that a finishing step can go below the part, mm, such as the spark gap of an electrode; the cutter's corner decides too. */
const DEEPEST_MM = 5;
/** So much of a corner is left at least when it goes below the part, mm: nothing hollow that is tighter can be followed. */
const LEAST_CORNER_MM = 0.05;

export const finishingSchema = z.object({
  allowance: z.number().min(-DEEPEST_MM).max(20),
  /** Left on level ground; null: the same as on walls. */
  bottomAllowance: z.number().min(-DEEPEST_MM).max(20).nullable().default(null),
  scallop: z.number().min(0.0002).max(2),
  tolerance: z.number().min(0.001).max(0.5),
  bottom: z.number().min(-10_000).max(10_000).nullable(),
  mostSteel: z.number().min(0.05).max(50),
  /** Only where this assembly of the crib did not reach; null: everywhere. */
  restOf: z.string().max(60).nullable().default(null),
  /** It is taken to be larger by this all round: how far the region reaches over its border. */
  restOverlap: z.number().min(0).max(20).default(0.2),
  /** Only where it left more than this. */
  restThicker: z.number().min(0.001).max(20).default(0.02),
  /** What kept it off the part: its edges alone, or shank and holder as well. */
  restBy: z.enum(['edges', 'assembly']).default('edges'),
  /** Only where the steel is thicker than this; null: everywhere. */
  leastSteel: z.number().min(0.01).max(50).nullable().default(null),
});
export type FinishingValues = z.infer<typeof finishingSchema>;

/** A neighbouring pass is reached over the surface when its start is nearer than this many side steps. */
export const NEAR_STEPS = 3;
/** Finished ground up to so many diameters is passed over rather than lifted over (common practice). */
export const JOIN_DIAMETERS = 0.5;

const isRest = (values: Values): boolean => values['restOf'] !== null;

/** Values that finishing kinds have in common, as they are shown. */
export const ALLOWANCE: Field = {
  key: 'allowance',
  label: 'Allowance',
  section: 'aim',
  unit: 'mm',
  means: 'side allowance',
  why: 'Less than 0 is cut below the part, such as the spark gap of an electrode: the cutter then counts as smaller by it all round.',
};
export const BOTTOM_ALLOWANCE: Field = {
  key: 'bottomAllowance',
  label: 'Bottom allowance',
  section: 'aim',
  unit: 'mm',
  whenEmpty: 'the same',
  why: 'Between walls and level ground it goes over evenly, by the cosine of the slope.',
};
/**
 * @param goesOn what the kind adds to why passes lie as far apart as they do
 * @param step how the kind calls the distance of its passes where the ground is not bent
 */
export const scallopField = (goesOn: string, step = 'Side step on level ground'): Field => ({
  key: 'scallop',
  label: 'Scallop height',
  section: 'aim',
  unit: 'mm',
  why: `Passes lie s = 2 sqrt(2 RE h - h²) apart on a plane (Pythagoras), a ball with RE = DC / 2. ${goesOn}`,
  also: [
    {
      label: step,
      unit: 'mm',
      of: (scallop, { RE }) => sideStepFor(RE, scallop),
      from: (apart, { RE }) => (apart > 0 ? scallopOf(RE, apart) : apart),
    },
  ],
});
export const TOLERANCE: Field = { key: 'tolerance', label: 'Path tolerance', section: 'aim', unit: 'mm' };
export const FROM_HEIGHT: Field = {
  key: 'top',
  label: 'From height',
  section: 'limits',
  unit: 'mm',
  height: true,
  whenEmpty: 'top of the part',
};
export const SLOPE_FIELDS: readonly Field[] = [
  { key: 'fromSlopeDeg', label: 'From slope', section: 'limits', unit: '°' },
  { key: 'toSlopeDeg', label: 'Up to slope', section: 'limits', unit: '°' },
];
export const NOT_BELOW: Field = {
  key: 'bottom',
  label: 'Not below',
  section: 'limits',
  unit: 'mm',
  height: true,
  whenEmpty: 'the part',
};
export const MOST_STEEL: Field = {
  key: 'mostSteel',
  label: 'Stock limit',
  section: 'limits',
  unit: 'mm',
  why: '0.25 DC: where more is left, a finishing cutter would be overloaded; those places are listed instead.',
};
export const RAMP: Field = {
  key: 'rampDeg',
  boundBy: 'RMPX',
  label: 'Down to the next height',
  section: 'travel',
  unit: '°',
  whenEmpty: 'straight down the wall',
  why: '25°: closed passes go over into the next one along the wall, so that no mark stays where each begins (common practice).',
};
/** Where only the rest is finished. */
export const REST_FIELDS: readonly Field[] = [
  {
    key: 'restOf',
    label: 'Rest from',
    section: 'limits',
    assembly: true,
    whenEmpty: 'everything',
    why: 'Only where that cutter could not touch the part by its shape, whatever steps there were.',
  },
  {
    key: 'restBy',
    label: 'Kept off by',
    section: 'limits',
    onlyWhen: isRest,
    choices: [
      { value: 'edges', label: 'its edges' },
      { value: 'assembly', label: 'edges, shank and holder' },
    ],
    why: 'With shank and holder: what a step did that only cut as far as they clear the part, with the room that is usual.',
  },
  { key: 'restOverlap', label: 'Overlap with its ground', section: 'limits', unit: 'mm', onlyWhen: isRest },
  { key: 'restThicker', label: 'Where it leaves more than', section: 'limits', unit: 'mm', onlyWhen: isRest },
  {
    key: 'leastSteel',
    label: 'Only steel thicker than',
    section: 'limits',
    unit: 'mm',
    whenEmpty: 'everything',
    why: 'By the steel as the steps before leave it, told to about a third of its cells.',
  },
];

/** Only cutters whose round is known finish freeform ground: a high-feed cutter or face mill has an equivalent corner only. */
export const refusesOthers =
  (name: string) =>
  ({ kind }: Pick<ToolShape, 'kind'>): string | undefined =>
    kind === 'ball' || kind === 'bull' ? undefined : `${name} wants a ball or a bull-nose cutter.`;

/** What is said when the limits or the steel leave no pass. */
export const noPass = (): EsquisseError =>
  new EsquisseError(
    'step-impossible',
    'No pass reaches the part: either the limits leave nothing, or too much steel stands everywhere. Open it up first.',
    'mostSteel',
  );

/** How the rest of an earlier cutter reads in a sentence. */
export const restWords = ({ restOf }: Pick<FinishingValues, 'restOf'>): string =>
  restOf === null ? '' : ', only {restOf|the rest of an earlier cutter}';

/** How a slope band reads in a sentence. */
export function slopeWords({
  fromSlopeDeg: from,
  toSlopeDeg: to,
}: {
  fromSlopeDeg: number;
  toSlopeDeg: number;
}): string {
  if (from > 0 && to < 90) return `, on slopes of {fromSlopeDeg|${from}°} to {toSlopeDeg|${to}°}`;
  if (from > 0) return `, where it is steeper than {fromSlopeDeg|${from}°}`;
  return to < 90 ? `, where it is gentler than {toSlopeDeg|${to}°}` : '';
}

/** A slope band, degrees. @throws EsquisseError `step-impossible` when nothing lies in it */
export function slopeBand({
  fromSlopeDeg,
  toSlopeDeg,
}: {
  fromSlopeDeg: number;
  toSlopeDeg: number;
}): [number, number] {
  if (fromSlopeDeg < toSlopeDeg) return [fromSlopeDeg, toSlopeDeg];
  throw new EsquisseError(
    'step-impossible',
    `No slope lies between ${fromSlopeDeg}° and ${toSlopeDeg}°.`,
    'toSlopeDeg',
  );
}

/** The cut of passes that lie a side step apart. */
export const passesCut = (v: FinishingValues, tool: ToolShape): CutOf => ({
  cut: 'finish',
  ae: sideStepFor(tool.RE, v.scallop),
  ap: Math.min(v.mostSteel, FINISHING_DEPTH * tool.DC),
});

/** Thickest steel that a finishing cutter is to meet, mm, to begin with. */
export function mostSteelFor({ DC }: { DC: number }): number {
  return toThousandth(0.25 * DC);
}

/** What finishing begins with for a cutter. */
export const finishingHouse = (tool: { DC: number }): FinishingValues => ({
  allowance: 0,
  bottomAllowance: null,
  scallop: 0.01,
  // half of the scallop: what the path is off by stands in the ridges
  tolerance: 0.005,
  bottom: null,
  mostSteel: mostSteelFor(tool),
  restOf: null,
  restOverlap: 0.2,
  restThicker: 0.02,
  restBy: 'edges',
  leastSteel: null,
});

/** What a finishing step leaves on purpose. */
export function finishingLeaves({ allowance, bottomAllowance }: FinishingValues): { least: number; most: number } {
  const floor = bottomAllowance ?? allowance;
  return { least: Math.min(allowance, floor), most: Math.max(allowance, floor) };
}

/** The earlier cutter whose rest a step finishes. */
export const finishingRest = (v: FinishingValues): RestOf | undefined =>
  v.restOf === null
    ? undefined
    : { assemblyId: v.restOf, overlap: v.restOverlap, thicker: v.restThicker, withBody: v.restBy === 'assembly' };

/** The tip surface that a step follows. @throws EsquisseError `step-impossible` when it is to go deeper than the cutter's corner lets it */
export function tipSpecOf({ part, tool }: StepContext, v: FinishingValues): TipSurfaceSpec {
  const piece = cutterProfile(tool);
  const floor = v.bottomAllowance ?? v.allowance;
  const deepest = LEAST_CORNER_MM - piece.corner;
  for (const [key, allowance] of [
    ['allowance', v.allowance],
    ['bottomAllowance', floor],
  ] as const)
    if (allowance < 0 && allowance < deepest)
      throw new EsquisseError(
        'step-impossible',
        `With a corner of ${piece.corner} mm the cutter goes ${Math.max(0, -deepest).toFixed(3)} mm below the part at most.`,
        key,
      );
  return { mesh: part, piece, side: v.allowance, floor };
}

/**
 * What of it is to be cut.
 *
 * @param slopesDeg least and greatest slope, degrees
 * @param top nothing above this height of the tip, mm; null: all of it
 */
export function wantedOf(
  context: StepContext,
  v: FinishingValues,
  slopesDeg: readonly [number, number],
  top: number | null = null,
): WantedSpec {
  const rest = finishingRest(v);
  const spec = rest && restSpec(context.part, context.shapeNamed(rest.assemblyId), rest);
  if (spec && 'problem' in spec) throw new EsquisseError('step-impossible', spec.problem, 'restOf');
  return {
    slopes: [(slopesDeg[0] * Math.PI) / 180, (slopesDeg[1] * Math.PI) / 180],
    ...(top !== null && { top }),
    ...(spec && { rest: spec }),
    ...(v.leastSteel !== null && { thicker: v.leastSteel }),
    ...(context.faces && { faces: { limits: context.faces, round: cutterProfile(context.tool).corner + v.allowance } }),
  };
}

/** Passes that a finishing step will come to over ground of some slopes, degrees, in its pattern. */
export async function finishingExpected(
  { part, tool, shapeNamed, ground }: ExpectContext,
  v: FinishingValues & { top?: number | null },
  patterns: readonly { readonly slopesDeg: readonly [number, number]; readonly pattern: Pattern }[],
): Promise<Expected> {
  const rest = finishingRest(v);
  const spec = rest && restSpec(part, shapeNamed(rest.assemblyId), rest);
  const allowance = { side: v.allowance, floor: v.bottomAllowance ?? v.allowance };
  const pieces = await ground(allowance, { ...(spec && 'spec' in spec && { rest: spec }), ...v });
  const { bottom, top = null } = v;
  const found = patterns.map(({ slopesDeg, pattern }) => passesOver(pieces, { slopesDeg, bottom, top }, pattern));
  const all = found.flatMap((passes) => passes.pieces);
  const apart = ({ apart: a }: (typeof all)[number]): number => a;
  return {
    length: found.reduce((sum, { length }) => sum + length, 0),
    apart: { middle: below(all, apart, 0.5), nearest: below(all, apart, 0.01) },
    ridges: ridgesBelow(all, v.scallop, tool.RE, 0.99),
    // where an earlier cutter did not reach is not known by slope and height
    planes: rest
      ? []
      : patterns.flatMap(({ slopesDeg, pattern: { planes } }) =>
          planes ? [{ ...planes, slopesDeg, bottom: bottom ?? null, top }] : [],
        ),
  };
}

/** What kinds that cut passes between heights tell of themselves in the same way. */
export const PASSES_TELL = {
  byFaces: true,
  leaves: finishingLeaves,
  ridges: (v: FinishingValues) => v.scallop,
  isCompared: true as const,
  lowest: (v: FinishingValues) => v.bottom ?? -Infinity,
  highest: (v: { top: number | null }) => v.top ?? Infinity,
  rest: finishingRest,
  tolerance: (v: FinishingValues) => v.tolerance,
} as const;
