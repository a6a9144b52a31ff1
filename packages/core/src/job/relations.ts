import { cutterSymbols } from '../strategy/houseValues';
import { kindOf } from '../strategy/registry';
import { assemblySchema, type Cutter, cutterSchema, toolOf } from '../tool/library';
import { related, type Relations } from '../tool/relative';
import { type Job, stepLimitSchema } from './job';

/** A relation that gives no value in range any more: the value from before stands in its place until it is mended. */
export interface RelationProblem {
  /** Step, assembly or cutter. */
  readonly ownerId: string;
  readonly key: string;
  readonly message: string;
}

/** Sizes that a cutter's own sizes can be relative to. */
const sizeSymbols = ({ DC }: Cutter): Record<string, number> => ({ DC });
/** Sizes that the figures of an assembly can be relative to. */
export function assemblySymbols({ DC, RE, APMX, DMM, OAL, LN }: Cutter): Record<string, number> {
  return { DC, RE, APMX, DMM, OAL, ...(LN === null ? {} : { LN }) };
}

type AnyValues = Readonly<Record<string, unknown>>;

/** Works relations out anew, as far as what comes of them may stand there. */
function workedOut<T extends AnyValues>(
  values: T,
  relations: Relations | undefined,
  symbols: Readonly<Record<string, number>>,
  refusal: (changed: T, key: string) => string | undefined,
  tell: (key: string, message: string) => void,
): T {
  let out = values;
  for (const [key, relation] of Object.entries(relations ?? {})) {
    const read = related(relation, symbols);
    const changed = 'value' in read ? { ...out, [key]: rounded(read.value) } : out;
    const problem = 'problem' in read ? read.problem : refusal(changed, key);
    if (problem) tell(key, `${relation.expr}${'value' in read ? ` gives ${rounded(read.value)} mm` : ''}: ${problem}`);
    else if (changed[key] !== out[key]) out = changed;
  }
  return out;
}

/** Finer than any path's tolerance, and free of the noise of factors. */
const rounded = (value: number): number => Math.round(value * 1e6) / 1e6;

/** The first complaint of a check about a key. */
function complaintOf(
  parsed: { success: boolean; error?: { issues: { path: PropertyKey[]; message: string }[] } },
  key: string,
) {
  return parsed.success ? undefined : parsed.error?.issues.find((i) => i.path[0] === key)?.message;
}

/** All relations worked out anew: crib first, then the steps with the cutters as they are. */
function resolved(job: Job): { job: Job; problems: RelationProblem[] } {
  const problems: RelationProblem[] = [];
  const teller = (ownerId: string) => (key: string, message: string) => problems.push({ ownerId, key, message });
  const each = <T>(list: T[], change: (item: T) => T): T[] => {
    const out = list.map(change);
    return out.some((item, i) => item !== list[i]) ? out : list;
  };
  const hasAny = ({ relations }: { relations?: Relations | undefined }): boolean => relations !== undefined;
  const cutters = each(job.crib.cutters, (c) =>
    hasAny(c)
      ? workedOut(
          c,
          c.relations,
          sizeSymbols(c),
          (next, key) => complaintOf(cutterSchema.safeParse(next), key),
          teller(c.id),
        )
      : c,
  );
  const byId = new Map(cutters.map((c) => [c.id, c]));
  const assemblies = each(job.crib.assemblies, (a) => {
    const cutter = byId.get(a.cutterId);
    if (!cutter || !hasAny(a)) return a;
    const refusal = (next: typeof a, key: string): string | undefined =>
      complaintOf(assemblySchema.safeParse(next), key) ??
      (key === 'stickOut' ? stickOutRefusal(next.stickOut, cutter) : undefined);
    return workedOut(a, a.relations, assemblySymbols(cutter), refusal, teller(a.id));
  });
  const crib =
    cutters === job.crib.cutters && assemblies === job.crib.assemblies
      ? job.crib
      : { ...job.crib, cutters, assemblies };
  const steps = each(job.steps, (step) => {
    const tool = toolOf(crib, step.assemblyId);
    const kind = kindOf(step.kind);
    if (!tool || !kind) return step;
    const symbols = cutterSymbols(tool.cutter);
    const tell = teller(step.id);
    const values = workedOut(
      step.values,
      step.relations,
      symbols,
      (next, key) => {
        const checked = kind.check(next);
        return 'problems' in checked ? checked.problems.find((p) => p.key === key)?.message : undefined;
      },
      tell,
    );
    const limits = each(step.limits, (limit) =>
      workedOut(
        limit,
        limit.relations,
        symbols,
        (next, key) => complaintOf(stepLimitSchema.safeParse(next), key),
        (key, message) => tell(`limits.${step.limits.indexOf(limit)}.${key}`, message),
      ),
    );
    return values === step.values && limits === step.limits ? step : { ...step, values, limits };
  });
  const same = crib === job.crib && steps === job.steps;
  return { job: same ? job : { ...job, crib, steps }, problems };
}

function stickOutRefusal(stickOut: number, { APMX, OAL }: Cutter): string | undefined {
  if (stickOut < APMX) return `less than the flutes of ${APMX} mm`;
  if (stickOut > OAL) return `more than the whole length of ${OAL} mm`;
  return undefined;
}

/** A job with all its relations worked out for the cutters as they are; those that give no value in range leave it as it was. */
export function withRelations(job: Job): Job {
  return resolved(job).job;
}

/** The relations that give no value in range. */
export function relationProblems(job: Job): readonly RelationProblem[] {
  return resolved(job).problems;
}
