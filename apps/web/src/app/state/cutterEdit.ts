import {
  type Cutter,
  type CutterKind,
  holderShape,
  type Job,
  neckEnd,
  type Relation,
  type Tool,
  usualCut,
  usualCutter,
} from '@esquisse/core';
import { freeId, withCutterChange, withRelation } from './edit';

/** Small pure changes of cutters. */

/** How far a cutter stands out beyond its neck by itself, mm. */
const BEYOND_MM = 3;
const FIT_MM = 0.05;

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
  const fits = crib.holders.find(
    ({ DCONWS, clampFrom }) => DCONWS !== null && held <= DCONWS + FIT_MM && held >= (clampFrom ?? DCONWS) - FIT_MM,
  );
  const holder = fits ?? {
    ...holderShape(cutter.kind === 'face' ? 'face-mill arbor' : 'shrink-fit', held),
    id: freeId('h', ids(crib.holders)),
  };
  const stickOut = Math.min(cutter.OAL, Math.ceil(Math.max(neckEnd(cutter), cutter.APMX, 3 * cutter.DC) + BEYOND_MM));
  const number =
    Math.max(0, ...crib.assemblies.map((a) => a.lengthOffset ?? a.number), ...crib.assemblies.map((a) => a.number)) + 1;
  const assembly = {
    id: freeId('t', ids(crib.assemblies)),
    number,
    cutterId: cutter.id,
    holderId: holder.id,
    extensionIds: [],
    stickOut,
    lengthOffset: null,
    radiusOffset: null,
    n: 1000,
    fz: 0.02,
    data: null,
    retired: false,
    measuredLength: null,
    measuredDiameter: null,
    measuredRadius: null,
    asMeasured: false,
  };
  const data = { ...usualCut({ assembly, cutter, holder, extensions: [] } as Tool), overrides: {} };
  return {
    job: {
      ...job,
      crib: {
        ...crib,
        cutters: [...crib.cutters, cutter],
        holders: fits ? crib.holders : [...crib.holders, holder],
        assemblies: [...crib.assemblies, { ...assembly, data }],
      },
    },
    id: assembly.id,
  };
}
