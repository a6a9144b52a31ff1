import {
  type Assembly,
  type BoundHeight,
  type Crib,
  type Cutter,
  type Extension,
  houseOf,
  type ProposedStep,
  type Holder,
  type HouseValues,
  type Job,
  kindOf,
  newStep,
  type Relation,
  type Relations,
  shapeOf,
  type Step,
  type StepKind,
  type Tool,
  toolOf,
  toolsOf,
  withBound,
  type Value,
} from '@esquisse/core';

/** What a cutter is clamped in. */
export type Clamp = Holder | Extension;
/** Changed values of a clamp, or what makes them from the clamp as it is. */
export type ClampChange = Partial<Holder & Extension> | ((now: Clamp) => Partial<Holder & Extension>);

/** Small pure changes of a job. Each gives a new job and leaves the old one as it was. */

export function withStep(job: Job, id: string, change: Partial<Step>): Job {
  return { ...job, steps: job.steps.map((s) => (s.id === id ? { ...s, ...change } : s)) };
}

/** A value of a step, with the relation that it was typed as, if it was. */
export function withValue(job: Job, id: string, key: string, value: Value, relation?: Relation): Job {
  return {
    ...job,
    steps: job.steps.map((s) =>
      s.id === id
        ? {
            ...s,
            values: { ...s.values, [key]: value },
            relations: withRelation(s.relations, key, relation),
            // a height that is open or relative to the cutter is bound to no place
            bound: withBound(s.bound, key, typeof value === 'number' && !relation ? s.bound?.[key] : undefined),
          }
        : s,
    ),
  };
}

/** A height of a step at a place of the part, and bound to it. */
export function withBoundValue(job: Job, id: string, key: string, value: number, bound: BoundHeight): Job {
  const next = withValue(job, id, key, value);
  return { ...next, steps: next.steps.map((s) => (s.id === id ? { ...s, bound: withBound(s.bound, key, bound) } : s)) };
}

/** A height of a step that stays, and is bound to no place any more. */
export function withoutBound(job: Job, id: string, key: string): Job {
  return {
    ...job,
    steps: job.steps.map((s) => (s.id === id ? { ...s, bound: withBound(s.bound, key, undefined) } : s)),
  };
}

/** Relations with one more, or, for undefined, without it. */
export function withRelation(
  relations: Relations | undefined,
  key: string,
  relation: Relation | undefined,
): Relations | undefined {
  const all = { ...relations };
  if (relation) all[key] = relation;
  else delete all[key];
  return Object.keys(all).length > 0 ? all : undefined;
}

/**
 * What a new step of a kind begins with: what finishes goes on with the cutter of the finishing step before it, else with a
 * ball; anything else takes the first assembly that can do it.
 */
function firstTool(job: Job, kind: StepKind, before: readonly Step[]): Tool | undefined {
  const fit = toolsOf(job.crib).filter((t) => !kind.refuses(shapeOf(t)));
  if (kind.group !== 'finish') return fit[0];
  const last = before.findLast((s) => kindOf(s.kind)?.group === 'finish');
  return fit.find((t) => t.assembly.id === last?.assemblyId) ?? fit.find((t) => t.cutter.kind === 'ball') ?? fit[0];
}

/** A new step of a kind behind the step `after` (or at the beginning), with an assembly that can do it, or a given one. */
export function withNewStep(
  job: Job,
  kindId: string,
  after: string | null,
  shop: HouseValues = {},
  assemblyId?: string,
): { job: Job; stepId: string } | undefined {
  const kind = kindOf(kindId);
  const at = job.steps.findIndex((s) => s.id === after) + 1;
  const given = assemblyId === undefined ? undefined : toolOf(job.crib, assemblyId);
  const tool = assemblyId === undefined ? kind && firstTool(job, kind, job.steps.slice(0, at)) : given;
  if (!kind || !tool || kind.refuses(shapeOf(tool))) return undefined;
  const stepId = freeId(
    's',
    job.steps.map((s) => s.id),
  );
  const step = newStep({
    id: stepId,
    name: kind.name,
    kind: kindId,
    assemblyId: tool.assembly.id,
    values: houseOf(kind, shapeOf(tool), shop),
  });
  return { job: { ...job, steps: [...job.steps.slice(0, at), step, ...job.steps.slice(at)] }, stepId };
}

/** Proposed steps behind all others, each with its speeds by its own cut. */
export function withProposedSteps(job: Job, proposed: readonly ProposedStep[]): { job: Job; firstId: string } {
  const steps = [...job.steps];
  for (const { kind, name, tool, values } of proposed) {
    const id = freeId(
      's',
      steps.map((s) => s.id),
    );
    steps.push(newStep({ id, name, kind, assemblyId: tool.assembly.id, values }));
  }
  return { job: { ...job, steps }, firstId: steps[job.steps.length]!.id };
}

export function withoutStep(job: Job, id: string): Job {
  return { ...job, steps: job.steps.filter((s) => s.id !== id) };
}

/** A step moved to place `to` of the plan. */
export function withStepAt(job: Job, id: string, to: number): Job {
  const step = job.steps.find((s) => s.id === id);
  if (!step) return job;
  const rest = job.steps.filter((s) => s.id !== id);
  return { ...job, steps: [...rest.slice(0, to), step, ...rest.slice(to)] };
}

/** Another assembly for a step; values that stood at the house value follow the new cutter. */
export function withAssembly(job: Job, stepId: string, assemblyId: string, shop: HouseValues = {}): Job {
  const step = job.steps.find((s) => s.id === stepId);
  const kind = step && kindOf(step.kind);
  const before = step && toolOf(job.crib, step.assemblyId);
  const after = toolOf(job.crib, assemblyId);
  if (!step || !kind || !before || !after) return job;
  const old = houseOf(kind, shapeOf(before), shop);
  const house = houseOf(kind, shapeOf(after), shop);
  const values = Object.fromEntries(
    Object.entries(step.values).map(([key, value]) => [key, value === old[key] ? (house[key] ?? value) : value]),
  );
  return withStep(job, stepId, { assemblyId, values });
}

/** Something whose values may be relations, changed: what is set otherwise is no relation any more, unless that is told too. */
function withChange<T extends { relations?: Relations | undefined }>(one: T, change: Partial<T>): T {
  let { relations } = one;
  for (const key of Object.keys(change)) relations = withRelation(relations, key, undefined);
  return { ...one, relations, ...change };
}

export function withAssemblyChange(job: Job, id: string, change: Partial<Assembly>): Job {
  const assemblies = job.crib.assemblies.map((a) => (a.id === id ? withChange(a, change) : a));
  return { ...job, crib: { ...job.crib, assemblies } };
}

export function withCutterChange(job: Job, id: string, change: Partial<Cutter>): Job {
  const cutters = job.crib.cutters.map((c) => (c.id === id ? withChange(c, change) : c));
  return { ...job, crib: { ...job.crib, cutters } };
}

/** A copy of an assembly and its cutter under the next free number. */
export function withCopiedAssembly(job: Job, id: string): { job: Job; id: string } | undefined {
  const tool = toolOf(job.crib, id);
  if (!tool) return undefined;
  const cutter = {
    ...tool.cutter,
    id: freeId(
      'c',
      job.crib.cutters.map((c) => c.id),
    ),
  };
  const number = Math.max(...job.crib.assemblies.map((a) => a.number)) + 1;
  const assembly = {
    ...tool.assembly,
    id: freeId(
      't',
      job.crib.assemblies.map((a) => a.id),
    ),
    number,
    cutterId: cutter.id,
  };
  const crib = {
    ...job.crib,
    cutters: [...job.crib.cutters, cutter],
    assemblies: [...job.crib.assemblies, assembly],
  };
  return { job: { ...job, crib }, id: assembly.id };
}

export function withoutAssembly(job: Job, id: string): Job {
  return { ...job, crib: { ...job.crib, assemblies: job.crib.assemblies.filter((a) => a.id !== id) } };
}

/** A holder or extension changed. */
export function withClampChange(job: Job, list: 'holders' | 'extensions', id: string, change: ClampChange): Job {
  const changed = (job.crib[list] as Clamp[]).map((c) =>
    c.id === id ? { ...c, ...(typeof change === 'function' ? change(c) : change) } : c,
  );
  return { ...job, crib: { ...job.crib, [list]: changed } as Crib };
}

/** A holder or extension more. */
export function withNewClamp(job: Job, list: 'holders' | 'extensions', clamp: object): { job: Job; id: string } {
  const id = freeId(
    list === 'holders' ? 'h' : 'e',
    job.crib[list].map((c) => c.id),
  );
  return { job: { ...job, crib: { ...job.crib, [list]: [...job.crib[list], { ...clamp, id }] } as Crib }, id };
}

export function freeId(prefix: string, taken: readonly string[]): string {
  let n = taken.length + 1;
  while (taken.includes(`${prefix}${n}`)) n++;
  return `${prefix}${n}`;
}
