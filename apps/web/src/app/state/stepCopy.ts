import {
  type Cutter,
  CUTTER_KINDS,
  cutterTitle,
  type Job,
  kindOf,
  shapeOf,
  type Step,
  stepSchema,
  toolOf,
  toolTitle,
} from '@esquisse/core';
import { z } from 'zod';
import { freeId } from './edit';

/** A step on its way to another place of the plan, or to another job. */
export interface CopiedStep {
  readonly jobId: string;
  readonly step: Step;
  /** With what it cuts. */
  readonly cutter: Pick<Cutter, 'kind' | 'DC' | 'RE'>;
}

const copiedSchema = z.object({
  jobId: z.string(),
  step: stepSchema,
  cutter: z.object({ kind: z.enum(CUTTER_KINDS), DC: z.number(), RE: z.number() }),
});

/** A copied step from what was kept of it; undefined when it is none, or not one of this page's kinds. */
export function readCopied(json: unknown): CopiedStep | undefined {
  return copiedSchema.safeParse(json).data;
}

export function copiedStep(job: Job, id: string): CopiedStep | undefined {
  const step = job.steps.find((s) => s.id === id);
  const tool = step && toolOf(job.crib, step.assemblyId);
  if (!tool) return undefined;
  const { kind, DC, RE } = tool.cutter;
  return { jobId: job.id, step, cutter: { kind, DC, RE } };
}

/**
 * A job with a copied step behind the step `after`, or at the end. In another job it takes the cutter of the same kind and
 * sizes, and gives up heights, limits and whatever named another cutter: those were the other part's.
 *
 * @returns undefined when no cutter of the job can do it; `changes` says what had to be changed, empty for nothing
 */
export function withPasted(
  job: Job,
  { jobId, step, cutter }: CopiedStep,
  after: string | null,
): { job: Job; stepId: string; changes: string } | undefined {
  const kind = kindOf(step.kind);
  const isSame = jobId === job.id;
  const tools = job.crib.assemblies.flatMap((a) => toolOf(job.crib, a.id) ?? []);
  const own = isSame ? tools.find((t) => t.assembly.id === step.assemblyId) : undefined;
  const like = tools.find(
    (t) => t.cutter.kind === cutter.kind && t.cutter.DC === cutter.DC && t.cutter.RE === cutter.RE,
  );
  const fit = tools.filter((t) => kind && !kind.refuses(shapeOf(t)));
  const tool = own ?? like ?? fit.find((t) => t.cutter.kind === cutter.kind) ?? fit[0];
  if (!kind || !tool) return undefined;
  const stepId = freeId(
    's',
    job.steps.map((s) => s.id),
  );
  const foreign = kind.fields.filter((f) => f.height || f.assembly).map((f) => [f.key, null] as const);
  const free = isSame
    ? {}
    : { values: { ...step.values, ...Object.fromEntries(foreign) }, bound: undefined, limits: [] };
  const pasted: Step = { ...step, ...free, id: stepId, assemblyId: tool.assembly.id };
  const found = job.steps.findIndex((s) => s.id === after);
  const at = found < 0 ? job.steps.length : found + 1;
  const changes = [
    (own ?? like) ? '' : `It cuts with ${toolTitle(tool)}: there is no ${cutterTitle(cutter)} in this crib.`,
    isSame ? '' : 'Heights and limits were those of another part and are open.',
  ];
  return {
    job: { ...job, steps: [...job.steps.slice(0, at), pasted, ...job.steps.slice(at)] },
    stepId,
    changes: changes.filter(Boolean).join(' '),
  };
}
