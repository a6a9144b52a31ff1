import { z } from 'zod';
import { EsquisseError } from '../base/errors';
import { laySchema } from '../part/lay';
import { type Relations } from '../tool/relative';
import { blankSchema, drilledSchema, type Job, jobFields, parseJob, partSchema, setupSchema, stepSchema } from './job';

export const JOB_FORMAT = 'esquisse-job';
/** The version that is written. */
export const JOB_VERSION = 2;

type Json = Readonly<Record<string, unknown>>;

/** A job as it is kept and saved: its setups one after another, each with how the part lies in it, its blank and its steps. */
export interface JobFile extends Json {
  readonly format: typeof JOB_FORMAT;
  readonly version: typeof JOB_VERSION;
  readonly id: string;
  readonly name: string;
  readonly setups: readonly Json[];
}

/** The schema of a job's file, for other programs: values of steps, limits and crib may be relations instead. */
export const jobFileSchema = z.object({
  format: z.literal(JOB_FORMAT),
  version: z.literal(JOB_VERSION),
  ...jobFields.omit({ setup: true, steps: true, blank: true, drilled: true, part: true, laterSetups: true }).shape,
  part: partSchema.omit({ lay: true }).nullable(),
  setups: z
    .array(
      setupSchema.extend({
        lay: laySchema,
        blank: blankSchema,
        drilled: z.array(drilledSchema),
        steps: z.array(stepSchema),
      }),
    )
    .min(1),
});

/** From each version to the next, as the JSON of a job that may still be wrong in other ways. */
const MIGRATIONS: Readonly<Record<number, (job: Json) => Json>> = { 1: withSetups };

/** Version 1 had one setup, and what lies in it beside it; its programs always ran with flood. */
function withSetups({ setup, steps, blank, drilled, part, ...rest }: Json): Json {
  const { lay, ...file } = objectOf(part);
  const flooded = mapped(steps, (step) => ({ ...step, coolant: 'flood' }));
  const first = { ...objectOf(setup), ...(lay === undefined ? {} : { lay }), blank, drilled, steps: flooded };
  return { ...rest, version: 2, part: part ? file : part, setups: [first] };
}

/** A job as it is kept and saved. */
export function jobFile(job: Job): JobFile {
  const { id, name, part, setup, steps, blank, drilled, crib, laterSetups, ...rest } = job;
  const { lay, ...file } = part ?? {};
  const first = { ...setup, ...(lay ? { lay } : {}), blank, drilled, steps: steps.map(stepInFile) };
  return {
    format: JOB_FORMAT,
    version: JOB_VERSION,
    id,
    name,
    part: part && file,
    ...rest,
    setups: [first, ...laterSetups],
    crib: { ...crib, cutters: crib.cutters.map(joined), assemblies: crib.assemblies.map(joined) },
  };
}

/**
 * The JSON of a job of any version as one of the present version; what else is wrong with it is not looked at.
 *
 * @throws EsquisseError `file-kind` when it is no job, or one of a version that is not known
 */
export function upgraded(json: unknown, source = 'The file'): JobFile {
  if (objectOf(json)['format'] !== JOB_FORMAT)
    throw new EsquisseError(
      'file-kind',
      `${source} is not an Esquisse job: it lacks "format": "${JOB_FORMAT}".`,
      'format',
    );
  let job = json as Json;
  while (job['version'] !== JOB_VERSION) {
    const migrate = typeof job['version'] === 'number' ? MIGRATIONS[job['version']] : undefined;
    if (!migrate)
      throw new EsquisseError(
        'file-kind',
        `${source} is a job of version ${String(job['version'])}; this program reads versions up to ${JOB_VERSION}.`,
        'version',
      );
    job = migrate(job);
  }
  if (!Array.isArray(job['setups']) || job['setups'].length === 0)
    throw new EsquisseError('job-invalid', `${source}: setups: A job has at least one setup.`, 'setups');
  return job as JobFile;
}

/** The JSON of a job of any version as its first setup sees it; what is wrong in it is not looked at. */
export function flattened(json: unknown, source?: string): Json {
  const { setups, part, crib, ...said } = upgraded(json, source);
  const rest: Record<string, unknown> = { ...said };
  for (const mark of ['format', 'version']) delete rest[mark];
  const { lay, blank, drilled, steps, ...setup } = objectOf(setups[0]);
  const { cutters, assemblies, ...holders } = objectOf(crib);
  return {
    ...rest,
    part: part ? { ...objectOf(part), ...(lay === undefined ? {} : { lay }) } : null,
    blank,
    ...(drilled === undefined ? {} : { drilled }),
    setup,
    steps: mapped(steps, stepOfFile),
    crib: { ...holders, cutters: mapped(cutters, split), assemblies: mapped(assemblies, split) },
    laterSetups: setups.slice(1),
  };
}

/**
 * Reads a job from parsed JSON of any version.
 *
 * @throws EsquisseError `file-kind` when it is no job of ours, `job-invalid` naming the field and what is wrong with it
 */
export function readJob(json: unknown, source = 'The file'): Job {
  return parseJob(flattened(json, source), source);
}

function stepInFile({ relations, ...step }: Job['steps'][number]): Json {
  return { ...step, values: withExpressions(step.values, relations), limits: step.limits.map(joined) };
}

function stepOfFile(step: Json): Json {
  const { values, relations } = withoutExpressions(objectOf(step['values']));
  return {
    ...step,
    ...(step['values'] === undefined ? {} : { values }),
    ...relations,
    ...(step['limits'] === undefined ? {} : { limits: mapped(step['limits'], split) }),
  };
}

/** Values with their relations in their places. */
function joined<T extends { relations?: Relations | undefined }>({ relations, ...values }: T): Json {
  return withExpressions(values, relations);
}

/** The reverse of {@link joined}. */
function split(json: Json): Json {
  const { values, relations } = withoutExpressions(json);
  return { ...values, ...relations };
}

/** `{ "expr": "0.3 DC", "value": 3 }` in the place of each value that is a relation. */
function withExpressions(values: Json, relations: Relations = {}): Json {
  const out: Record<string, unknown> = { ...values };
  for (const [key, { expr, unit }] of Object.entries(relations))
    if (key in out) out[key] = { expr, ...(unit === 'in' ? { unit } : {}), value: out[key] };
  return out;
}

function withoutExpressions(json: Json): { values: Json; relations: Json } {
  const values: Record<string, unknown> = {};
  const relations: Record<string, unknown> = {};
  for (const [key, held] of Object.entries(json)) {
    const { expr, unit, value } = objectOf(held);
    const isRelation = typeof expr === 'string' && value !== undefined;
    values[key] = isRelation ? value : held;
    if (isRelation) relations[key] = { expr, ...(unit === undefined ? {} : { unit }) };
  }
  return { values, relations: Object.keys(relations).length > 0 ? { relations } : {} };
}

const objectOf = (json: unknown): Json =>
  typeof json === 'object' && json !== null && !Array.isArray(json) ? (json as Json) : {};

/** Each object of a list; what is none stays as it is, to be refused where it is checked. */
const mapped = (list: unknown, change: (item: Json) => Json): unknown =>
  Array.isArray(list)
    ? list.map((item: unknown) => (typeof item === 'object' && item !== null ? change(item as Json) : item))
    : list;
