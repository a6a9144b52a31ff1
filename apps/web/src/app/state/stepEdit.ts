import {
  carriedValues,
  type Coolant,
  type EvenFeed,
  isCarried,
  type Job,
  kindOf,
  type OwnCutting,
  type Step,
  STRENGTHS,
  type Value,
} from '@esquisse/core';
import { withRelation } from './edit';

/** Small pure changes of a step beside the values of its kind. */

function withStepOf(job: Job, id: string, change: (step: Step) => Step): Job {
  return { ...job, steps: job.steps.map((s) => (s.id === id ? change(s) : s)) };
}

/** Of two quantities that give each other, one is set: the other follows. */
const PAIRS: Partial<Record<OwnCutting, OwnCutting>> = { vc: 'n', n: 'vc', fz: 'vf', vf: 'fz' };

/** A speed or feed set by hand, or, for undefined, following again. */
export function withOwnCutting(job: Job, id: string, key: OwnCutting, value: number | undefined): Job {
  return withStepOf(job, id, (step) => {
    const own = { ...step.cutting.own };
    delete own[key];
    const other = PAIRS[key];
    if (other) delete own[other];
    if (value !== undefined) own[key] = value;
    return { ...step, cutting: { ...step.cutting, own } };
  });
}

/** Whether the feed of a step follows its load, and how. */
export function withEvenFeed(job: Job, id: string, even: EvenFeed | null): Job {
  return withStepOf(job, id, (step) => ({ ...step, cutting: { ...step.cutting, even } }));
}

/** Where speed and feed of a step follow from. */
export function withStart(job: Job, id: string, from: Step['cutting']['from']): Job {
  return withStepOf(job, id, (step) => ({ ...step, cutting: { ...step.cutting, from } }));
}

/** How hard a step cuts: its radial depth goes with it, where it has one of its own. */
export function withStrength(job: Job, id: string, strength: number): Job {
  return withStepOf(job, id, (step) => {
    const by = STRENGTHS[strength]!.ae / STRENGTHS[step.cutting.strength]!.ae;
    const { ae } = step.values;
    const cutting = { ...step.cutting, strength };
    if (typeof ae !== 'number') return { ...step, cutting };
    const values: Record<string, Value> = { ...step.values, ae: Math.round(ae * by * 1000) / 1000 };
    return { ...step, cutting, values, relations: withRelation(step.relations, 'ae', undefined) };
  });
}

export function withCoolant(job: Job, id: string, coolant: Coolant | null): Job {
  return withStepOf(job, id, (step) => ({ ...step, coolant }));
}

export function withTravel(job: Job, id: string, change: Partial<Step['travel']>): Job {
  return withStepOf(job, id, (step) => ({ ...step, travel: { ...step.travel, ...change } }));
}

/** A step of another kind: cutter, limits, heights and whatever else means the same in both stay. */
export function withKind(job: Job, id: string, kindId: string, house: Readonly<Record<string, Value>>): Job {
  const kind = kindOf(kindId);
  return withStepOf(job, id, (step) => {
    if (!kind) return step;
    const from = kindOf(step.kind);
    const relations = Object.entries(step.relations ?? {}).filter(([key]) => isCarried(kind, from, house, key));
    const bound = Object.entries(step.bound ?? {}).filter(([key]) => isCarried(kind, from, house, key));
    const isNamed = step.name === kindOf(step.kind)?.name || step.name === '';
    return {
      ...step,
      kind: kindId,
      name: isNamed ? kind.name : step.name,
      values: carriedValues(kind, from, house, step.values),
      relations: relations.length > 0 ? Object.fromEntries(relations) : undefined,
      bound: bound.length > 0 ? Object.fromEntries(bound) : undefined,
    };
  });
}
