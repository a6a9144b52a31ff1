import {
  type Cutter,
  type CutterKind,
  holderShape,
  type Job,
  misfit,
  type Relation,
  type Tool,
  usualAssembly,
  usualCutter,
} from '@esquisse/core';
import { freeId, withCutterChange, withRelation } from './edit';

/** Small pure changes of cutters. */

/**
 * A size of a cutter, with what goes with it: a ball's corner radius is half its diameter; a neck has a diameter and a length,
 * or neither.
 */
export function withSize(
  job: Job,
  { cutter, assembly }: Tool,
  key: keyof Cutter,
  value: number | null,
  relation?: Relation,
): Job {
  const change: Partial<Cutter> = { [key]: value ?? 0, relations: withRelation(cutter.relations, key, relation) };
  if (cutter.kind === 'ball' && key === 'DC') change.RE = (value ?? 0) / 2;
  if (key === 'DCONMS') change.DCONMS = value;
  if (key === 'DN' || key === 'LN') {
    change[key] = value;
    if (value === null) Object.assign(change, { DN: null, LN: null });
    else if (key === 'DN' && cutter.LN === null) {
      // as long as the cutter stands out by now
      const cone = (cutter.DMM - value) / 2 / Math.tan((cutter.neckCone * Math.PI) / 180);
      change.LN = Math.max(cutter.APMX + 1, Math.floor(assembly.stickOut - cone));
    }
  }
  return withCutterChange(job, cutter.id, change);
}

/** Another kind for a cutter, with the corner, angle and sizes that such cutters usually have. */
export function withKindOfCutter(job: Job, { id, DC, DMM, OAL, APMX }: Cutter, kind: CutterKind): Job {
  const { RE, SIG, centreCutting } = usualCutter(kind, DC, { DMM, OAL, APMX });
  return withCutterChange(job, id, { kind, RE, SIG, centreCutting });
}

/**
 * A cutter from nothing, in the first holder that takes it or one made up for it, under the next free number. Speed and feed
 * follow the cut that such a cutter is mostly used for.
 */
export function withNewCutter(job: Job, made: Omit<Cutter, 'id'>): { job: Job; id: string } {
  const { crib } = job;
  const ids = (of: readonly { id: string }[]): string[] => of.map((one) => one.id);
  const cutter: Cutter = { ...made, id: freeId('c', ids(crib.cutters)) };
  const held = cutter.DCONMS ?? cutter.DMM;
  const fits = crib.holders.find((h) => h.DCONWS !== null && !misfit({ ...cutter, DCONMS: held }, h));
  const holder = fits ?? {
    ...holderShape(cutter.kind === 'face' ? 'face-mill arbor' : 'shrink-fit', held),
    id: freeId('h', ids(crib.holders)),
  };
  const number = Math.max(0, ...crib.assemblies.flatMap((a) => [a.number, a.lengthOffset ?? 0])) + 1;
  const id = freeId('t', ids(crib.assemblies));
  const assembly = usualAssembly({ id, number, cutterId: cutter.id, holderId: holder.id }, cutter);
  return {
    job: {
      ...job,
      crib: {
        ...crib,
        cutters: [...crib.cutters, cutter],
        holders: fits ? crib.holders : [...crib.holders, holder],
        assemblies: [...crib.assemblies, assembly],
      },
    },
    id,
  };
}
