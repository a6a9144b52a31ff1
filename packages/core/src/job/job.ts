import { shapeSchema } from '../geometry/shapes';
import { z } from 'zod';
import { cribSchema } from '../tool/library';
import { EsquisseError } from '../base/errors';
import { remembered } from '../base/remembered';
import { BOX_LEVELS } from '../geometry/box';
import { BODY_ROLES } from '../part/bodies';
import { type LengthUnit, UNIT_SYMBOLS } from '../part/unit';
import { AS_DRAWN, laySchema } from '../part/lay';
import { scaleSchema, TRUE_SIZE } from '../part/scale';
import { facePickSchema } from '../survey/facePicks';
import { LIMIT_SIDES } from '../field/bounds';
import { machineSchema } from '../load/machine';
import { materialSchema } from '../load/material';
import { relationsSchema } from '../tool/relative';
import { boundHeightsSchema } from './boundHeights';
import { COOLANTS } from '../tool/coolants';
import { stepCuttingSchema } from '../load/stepCutting';
import { stepTravelSchema } from '../link/stepTravel';
import type { Values } from '../strategy/kind';
import { kindOf, STEP_KINDS } from '../strategy/registry';
import { fixtureSchema } from './fixtures';

const id = z.string().min(1).max(60);

const shift = z.number().min(-5000).max(5000).default(0);
const allowance = z.number().min(0).max(5000);

/** A closed outline in plan: X, Y of each corner, in the laid frame of the part, mm. */
const outlineSchema = z
  .array(z.tuple([z.number(), z.number()]))
  .min(3)
  .max(20_000);

/** The steel that the work begins with, in the laid frame of the part, mm. */
export const blankSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('offset'),
    /** Steel beside and above the part's box, per side. */
    minX: allowance,
    maxX: allowance,
    minY: allowance,
    maxY: allowance,
    minZ: allowance,
    maxZ: allowance,
  }),
  z.object({
    kind: z.literal('fixed'),
    /** Size; the part's box sits in its middle in X and Y but for the shift, `below` above its underside. */
    sizeX: z.number().positive().max(10_000),
    sizeY: z.number().positive().max(10_000),
    sizeZ: z.number().positive().max(10_000),
    below: allowance,
    shiftX: shift,
    shiftY: shift,
  }),
  z.object({
    kind: z.literal('cylinder'),
    diameter: z.number().positive().max(10_000),
    height: z.number().positive().max(10_000),
    below: allowance,
    shiftX: shift,
    shiftY: shift,
  }),
  z.object({
    kind: z.literal('outline'),
    /** Where the outline comes from, for the person. */
    source: z.string().max(200),
    points: outlineSchema,
    below: allowance,
    above: allowance,
  }),
  z.object({
    kind: z.literal('body'),
    /** Steel all round the body that has the role of the blank. */
    allowance,
  }),
]);
export type Blank = z.infer<typeof blankSchema>;

/** A hole that is drilled before the work begins, in the laid frame of the part, mm: a way into closed steel. */
export const drilledSchema = z.object({
  x: z.number().min(-10_000).max(10_000),
  y: z.number().min(-10_000).max(10_000),
  diameter: z.number().positive().max(500),
  /** Height of its bottom. */
  bottom: z.number().min(-10_000).max(10_000),
});
export type Drilled = z.infer<typeof drilledSchema>;

const boxLevel = z.enum(BOX_LEVELS);

const axisWords = z.string().max(120);

export const workZeroSchema = z.object({
  /** A point of the part's or the block's box, or a place picked on the part. */
  of: z.enum(['part', 'block', 'picked']),
  x: boxLevel,
  y: boxLevel,
  z: boxLevel,
  /** The picked place in the frame of the part's file, mm, and what it is. */
  at: z.tuple([z.number(), z.number(), z.number()]).default([0, 0, 0]),
  what: z.string().max(80).default(''),
  /** What was picked for each axis, as the piece lay then. */
  axes: z.object({ lay: laySchema, words: z.tuple([axisWords, axisWords, axisWords]) }).optional(),
});
export type WorkZero = z.infer<typeof workZeroSchema>;

/** Work offsets of ISO 6983 controls, and the three beyond G59 that many have. */
export const WORK_OFFSETS = ['G54', 'G55', 'G56', 'G57', 'G58', 'G59', 'G59.1', 'G59.2', 'G59.3'] as const;

export const setupSchema = z.object({
  name: z
    .string()
    .min(1)
    .max(40)
    .regex(
      /^[A-Za-z0-9][A-Za-z0-9 _.-]*$/,
      'Letters, digits, blank, point, dash and underline only: it names the program.',
    ),
  workZero: workZeroSchema,
  workOffset: z.enum(WORK_OFFSETS),
  /** Height above the block's top at which the cutter crosses freely, mm. */
  safeHeight: z.number().min(1).max(1000),
  machine: machineSchema,
  /** How stiff the whole set-up is: index into the five descriptions, 0 the stiffest. */
  stiffness: z.int().min(0).max(4).default(1),
  /** What holds the block. */
  fixtures: z.array(fixtureSchema).max(50).default([]),
  /** Name of a post definition. */
  post: z.string().min(1),
  /** Number of the program at the control, where it wants one (O word); null: none. */
  programNumber: z.int().min(1).max(99_999_999).nullable().default(null),
});
export type Setup = z.infer<typeof setupSchema>;

const modelFile = {
  /** Path of the file, relative to the job. */
  file: z.string().min(1).max(400),
  /** Tells what the file holds from what another of the same name did; empty until it was read. */
  hash: z.string().max(80).default(''),
  /** Unit of a file that does not say its own. */
  unit: z.enum(UNIT_SYMBOLS).default('mm'),
};

export const partSchema = z.object({
  ...modelFile,
  /** How it lies on the machine. */
  lay: laySchema.default(AS_DRAWN),
  /** Shrinkage, size and mirroring, along the axes of the file. */
  scale: scaleSchema.default([...TRUE_SIZE]),
  /** What each body of the file is, by its number from 0; one that is not named is part. */
  roles: z.record(z.string(), z.enum(BODY_ROLES)).default({}),
});

/** Another file in the frame of the part's: a blank or a fixture. */
export const otherSchema = z.object({ ...modelFile, role: z.enum(BODY_ROLES) });

/** Where a step is held in plan. */
export const stepLimitSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('within'),
    /** Where the outline comes from, for the person. */
    source: z.string().max(200),
    points: outlineSchema,
    /** The sizes that it was drawn by, in the laid frame, where it was. */
    shape: shapeSchema.optional(),
    /** Where the cutter stops: all of it inside the outline, its axis on it, or just past it. */
    side: z.enum(LIMIT_SIDES),
    /** The border moved outward by this, mm. */
    offset: z.number().min(-500).max(500),
    relations: relationsSchema,
  }),
  z.object({
    kind: z.literal('clear'),
    source: z.string().max(200),
    points: outlineSchema,
    shape: shapeSchema.optional(),
    /** All of the cutter stays this far away, mm. */
    distance: z.number().min(0).max(500),
    relations: relationsSchema,
  }),
  z.object({
    kind: z.literal('faces'),
    /** Only where the cutter touches one of these faces. */
    faces: z.array(facePickSchema).max(2000),
    relations: relationsSchema,
  }),
  z.object({
    kind: z.literal('off-faces'),
    faces: z.array(facePickSchema).max(2000),
    /** The cutter stays this far away from them, mm. */
    distance: z.number().min(0.001).max(500),
    relations: relationsSchema,
  }),
  z.object({
    kind: z.literal('more-on-faces'),
    faces: z.array(facePickSchema).max(2000),
    /** Left on them beside the step's own allowance, mm. */
    amount: z.number().min(0.001).max(20),
    relations: relationsSchema,
  }),
]);

export const stepSchema = z
  .object({
    id,
    name: z.string().max(80),
    kind: z.string(),
    assemblyId: id,
    values: z.record(z.string(), z.union([z.number(), z.string(), z.boolean(), z.null()])),
    /** Values that were typed by the cutter's sizes. */
    relations: relationsSchema,
    /** Places of the part that heights among the values are bound to. */
    bound: boundHeightsSchema,
    limits: z.array(stepLimitSchema).max(50).default([]),
    /** A step that is off is neither calculated nor posted: the next one begins with the steel before it. */
    enabled: z.boolean().default(true),
    /** For whoever sets the machine up: goes into the program. */
    note: z.string().max(400).default(''),
    /** Heading under which the step stands in the plan. */
    group: z.string().max(60).default(''),
    /** Speeds and feeds of its own. */
    cutting: stepCuttingSchema,
    /** null: what the shop takes for the material and the cutter. */
    coolant: z.enum(COOLANTS).nullable().default(null),
    travel: stepTravelSchema,
  })
  .superRefine((step, context) => {
    const kind = kindOf(step.kind);
    if (!kind) {
      context.addIssue({
        code: 'custom',
        path: ['kind'],
        message: `"${step.kind}" is not a kind of step; there are ${STEP_KINDS.map((k) => k.id).join(', ')}.`,
      });
      return;
    }
    const checked = kind.check(step.values);
    for (const { key, message } of 'problems' in checked ? checked.problems : [])
      context.addIssue({ code: 'custom', path: ['values', ...key.split('.')], message });
  })
  // older jobs lack values that came later
  .transform((step): typeof step & { values: Values } => {
    const checked = kindOf(step.kind)?.check(step.values);
    return { ...step, values: checked && 'values' in checked ? checked.values : step.values };
  });
export type Step = z.infer<typeof stepSchema>;
export type StepLimit = z.infer<typeof stepLimitSchema>;
/** A limit by an outline in plan, and one by picked faces. */
export type PlanLimit = Extract<StepLimit, { points: unknown }>;
export type FaceLimit = Extract<StepLimit, { faces: unknown }>;

export const isPlanLimit = (limit: StepLimit): limit is PlanLimit => 'points' in limit;

/** A step that nobody has worked at yet; its speeds follow from its own cut. */
export function newStep(begun: Pick<Step, 'id' | 'name' | 'kind' | 'assemblyId'> & { values: Values }): Step {
  return stepSchema.parse({ ...begun, cutting: { from: 'cut' } });
}

const MOST_STEPS = 500;

/** What a job holds, each for itself. */
export const jobFields = z.object({
  id,
  name: z.string().min(1).max(80),
  part: partSchema.nullable(),
  others: z.array(otherSchema).max(50).default([]),
  material: materialSchema,
  blank: blankSchema,
  drilled: z.array(drilledSchema).max(200).default([]),
  setup: setupSchema,
  crib: cribSchema,
  steps: z.array(stepSchema).max(MOST_STEPS),
  /** Whether all steps are held against the rules for hard steel. */
  hardSteel: z.boolean().default(false),
  /** Side of a cell of the stock's height map, mm; null: chosen from the block's size. */
  cell: z.number().min(0.02).max(2).nullable().default(null),
  /** The setups after this one, as they stand in the job's file. */
  laterSetups: z.array(z.record(z.string(), z.unknown())).max(20).default([]),
});

/** What a job names has to be there. */
const refuseUnknownNames = (job: z.infer<typeof jobFields>, context: z.RefinementCtx): void => {
  if (
    job.blank.kind === 'body' &&
    !job.others.some((o) => o.role === 'blank') &&
    !Object.values(job.part?.roles ?? {}).includes('blank')
  )
    context.addIssue({
      code: 'custom',
      path: ['blank', 'kind'],
      message: 'No body has the role of the blank yet: bring in its file, or give the role to a body of the part.',
    });
  const seen = new Set<string>();
  job.steps.forEach((step, i) => {
    if (seen.has(step.id))
      context.addIssue({ code: 'custom', path: ['steps', i, 'id'], message: `Two steps have the id "${step.id}".` });
    seen.add(step.id);
    if (!job.crib.assemblies.some((a) => a.id === step.assemblyId))
      context.addIssue({
        code: 'custom',
        path: ['steps', i, 'assemblyId'],
        message: `Step ${i + 1} cuts with "${step.assemblyId}", which is not in the crib.`,
      });
    for (const field of kindOf(step.kind)?.fields ?? []) {
      const named = step.values[field.key];
      if (field.assembly && typeof named === 'string' && !job.crib.assemblies.some((a) => a.id === named))
        context.addIssue({
          code: 'custom',
          path: ['steps', i, 'values', field.key],
          message: `Step ${i + 1} names "${named}", which is not in the crib.`,
        });
    }
  });
};

/**
 * A job as one of its setups sees it: the piece as it lies there, its blank, crib and workplan. Lengths in mm, angles in
 * degrees. What is kept and saved is a {@link JobFile}.
 */
export const jobSchema = jobFields.superRefine(refuseUnknownNames);
/** The same, quick for a job of which little changed. */
const changedJobSchema = jobFields
  .extend({ crib: remembered(cribSchema), steps: z.array(remembered(stepSchema)).max(MOST_STEPS) })
  .superRefine(refuseUnknownNames);
export type Job = z.infer<typeof jobSchema>;

/** The steps that are on, in their order; up to one of them when it is named. */
export function stepsOn(job: Pick<Job, 'steps'>, through?: string): Step[] {
  const last = job.steps.findIndex((s) => s.id === through);
  return (last < 0 ? job.steps : job.steps.slice(0, last + 1)).filter((s) => s.enabled);
}

/** A file that a job names. */
export interface ModelFile {
  readonly file: string;
  readonly hash: string;
  readonly unit: LengthUnit;
}

/** All files that a job names. */
export function filesOf(job: Pick<Job, 'part' | 'others'>): ModelFile[] {
  return job.part ? [job.part, ...job.others] : [];
}

/**
 * A job that holds: everything in range, every name that is used there.
 *
 * @throws EsquisseError `job-invalid` naming the field and what is wrong with it
 */
export function parseJob(job: unknown, source = 'The job'): Job {
  const result = changedJobSchema.safeParse(job);
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  const place = issue.path.join('.');
  const more = result.error.issues.length > 1 ? ` (and ${result.error.issues.length - 1} more)` : '';
  throw new EsquisseError('job-invalid', `${source}: ${place || 'the job'}: ${issue.message}${more}`, place);
}
