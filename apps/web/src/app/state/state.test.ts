import '@angular/compiler';
import { type Job, kindOf, shapeInCrib, toolOf } from '@esquisse/core';
import { describe, expect, it } from 'vitest';
import { testJob } from '../../../../../packages/core/test/shapes';
import { clock } from '../shared/numbers';
import { motionAt } from '../strip/motionAt';
import { changeWords } from './changeWords';
import { withAssembly, withAssemblyChange, withNewStep, withoutStep, withStep, withStepAt, withValue } from './edit';
import { changeBefore } from './planTime';
import { copiedStep, readCopied, withPasted } from './stepCopy';
import { withKind, withStrength } from './stepEdit';
import type { StepSummary } from '../engine/views';
import { JobActions, jobFeature, UNDO_DEPTH } from './job.reducer';
import { PlanActions, planFeature, type PlanSlice } from './plan.reducer';

const job = testJob([
  { kind: 'level-roughing', assemblyId: 't2' },
  { kind: 'parallel-passes', assemblyId: 't3' },
]);
const opened = jobFeature.reducer(undefined, JobActions.opened({ job }));
const named = (name: string): Job => ({ ...job, name });

describe('undo', () => {
  it('goes back and forth over every change of the job, and a new change forgets what was taken back', () => {
    let state = opened;
    for (const name of ['a', 'b', 'c']) state = jobFeature.reducer(state, JobActions.changed({ job: named(name) }));
    state = jobFeature.reducer(state, JobActions.undo());
    state = jobFeature.reducer(state, JobActions.undo());
    expect(state.job!.name).toBe('a');
    expect(jobFeature.reducer(state, JobActions.redo()).job!.name).toBe('b');
    state = jobFeature.reducer(state, JobActions.changed({ job: named('d') }));
    expect(jobFeature.reducer(state, JobActions.redo())).toBe(state);
    state = jobFeature.reducer(state, JobActions.undo());
    state = jobFeature.reducer(state, JobActions.undo());
    expect(state.job).toBe(job);
    expect(jobFeature.reducer(state, JobActions.undo())).toBe(state);
  });

  it(`reaches ${UNDO_DEPTH} changes back`, () => {
    let state = opened;
    for (let k = 1; k <= UNDO_DEPTH + 20; k++)
      state = jobFeature.reducer(state, JobActions.changed({ job: named(`n${k}`) }));
    for (let k = 0; k < UNDO_DEPTH; k++) state = jobFeature.reducer(state, JobActions.undo());
    expect(state.job!.name).toBe('n20');
    expect(state.past).toHaveLength(0);
  });
});

describe('what would be undone', () => {
  it('is told by the label of the value, or by what happened to the step', () => {
    expect(changeWords(job, withValue(job, 's1', 'ap', 1))).toBe('Axial depth ap');
    expect(changeWords(job, withAssembly(job, 's1', 't4'))).toBe('cutter');
    expect(changeWords(job, withoutStep(job, 's1'))).toBe(`step "${job.steps[0]!.name}" removed`);
    expect(changeWords(withoutStep(job, 's1'), job)).toBe(`step "${job.steps[0]!.name}" added`);
    expect(changeWords(job, withStepAt(job, 's2', 0))).toBe('order of the steps');
    expect(changeWords(job, named('other'))).toBe('name of the job');
  });
});

describe('changes of the plan', () => {
  it('a new step stands behind the chosen one, with a cutter that can do it and its house values', () => {
    const made = withNewStep(job, 'parallel-passes', 's1')!;
    expect(made.job.steps.map((s) => s.id)).toEqual(['s1', made.stepId, 's2']);
    const step = made.job.steps[1]!;
    const tool = toolOf(job.crib, step.assemblyId)!;
    expect(tool.cutter.kind).toBe('ball');
    expect(step.values).toEqual(kindOf('parallel-passes')!.house(shapeInCrib(job.crib, step.assemblyId)!));
    expect(withNewStep({ ...job, crib: { ...job.crib, assemblies: [] } }, 'level-roughing', null)).toBeUndefined();
  });

  it('what finishes goes on with the cutter that finished before it, if it can', () => {
    const first = withNewStep(job, 'parallel-passes', 's1')!;
    const other = job.crib.assemblies.find((a) => toolOf(job.crib, a.id)!.cutter.kind === 'bull')!;
    const last = withAssembly(first.job, first.stepId, other.id);
    const next = withNewStep(last, 'waterline', first.stepId)!;
    expect(next.job.steps.find((s) => s.id === next.stepId)!.assemblyId).toBe(other.id);
    // corners are traced by balls only
    const corners = withNewStep(last, 'corner-tracing', first.stepId)!;
    const traced = corners.job.steps.find((s) => s.id === corners.stepId)!;
    expect(toolOf(job.crib, traced.assemblyId)!.cutter.kind).toBe('ball');
  });

  it('another cutter brings its house values, but what a person set stays', () => {
    const set = withValue(job, 's1', 'ae', 3.3);
    const changed = withAssembly(set, 's1', 't4').steps[0]!;
    const house = kindOf('level-roughing')!.house(shapeInCrib(job.crib, 't4')!);
    expect(changed.values['ae']).toBe(3.3);
    expect(changed.values['ap']).toBe(house['ap']);
  });

  it('steps are moved and removed without touching the others', () => {
    expect(withStepAt(job, 's2', 0).steps.map((s) => s.id)).toEqual(['s2', 's1']);
    expect(withoutStep(job, 's1').steps).toEqual([job.steps[1]]);
    expect(job.steps).toHaveLength(2);
  });
});

describe('the playhead', () => {
  const summary = (stepId: string, motions: number): StepSummary => ({ stepId, motions }) as unknown as StepSummary;
  const came = (slice: PlanSlice | undefined, serial: number, ...summaries: StepSummary[]): PlanSlice => {
    const state = { revision: 0, serial, summaries, fresh: summaries.map((s) => s.stepId) };
    return planFeature.reducer(slice, PlanActions.stateTold({ state }));
  };
  const [first, second, third] = [summary('s1', 5), summary('s2', 7), summary('s3', 9)];

  it('goes to the end of each result that was asked for, and stays where somebody put it meanwhile', () => {
    let state = planFeature.reducer(undefined, PlanActions.calculate({ through: 's3' }));
    state = came(state, 1, first);
    expect(state.moment).toEqual({ stepId: 's1', motion: 4 });
    state = came(state, 2, first, second);
    expect(state.moment).toEqual({ stepId: 's2', motion: 6 });
    state = planFeature.reducer(state, PlanActions.playheadMoved({ moment: { stepId: 's1', motion: 2 } }));
    state = came(state, 3, first, second, third);
    expect(state.moment).toEqual({ stepId: 's1', motion: 2 });
  });

  it('what was overtaken on its way takes nothing back', () => {
    const state = came(undefined, 2, first, second);
    expect(came(state, 1, first)).toBe(state);
    expect(came(state, 3, first, second, third).summaries).toEqual([first, second, third]);
    // a planner that was started again counts from the beginning
    const again = planFeature.reducer(state, PlanActions.plannerLost());
    expect(came(again, 1, first).summaries).toEqual([first]);
  });
});

describe('the sheet', () => {
  const toS2 = PlanActions.playheadMoved({ moment: { stepId: 's2', motion: 1 } });

  it('goes with the playhead, and stays where it is pinned', () => {
    expect(jobFeature.reducer(opened, toS2).selectedStepId).toBe('s2');
    const pinned = jobFeature.reducer(opened, JobActions.pinToggled());
    expect(jobFeature.reducer(pinned, toS2).selectedStepId).toBe('s1');
    expect(jobFeature.reducer(jobFeature.reducer(pinned, JobActions.pinToggled()), toS2).selectedStepId).toBe('s2');
  });
});

describe('reading and showing', () => {
  it('times are shown in hours only when there are any', () => {
    expect([0, 59.6, 61, 3599, 8291].map(clock)).toEqual(['0:00', '1:00', '1:01', '59:59', '2:18:11']);
  });

  it('the playhead stands at the first motion that ends at or after its time', () => {
    const times = Float64Array.from([0, 1, 1, 4, 9]);
    expect([0, 0.5, 1, 1.1, 9, 99].map((t) => motionAt(times, t))).toEqual([0, 1, 1, 3, 4, 4]);
  });
});

describe('a step as a whole', () => {
  const other = testJob([{ kind: 'facing', assemblyId: 't1' }], 0, { id: 'other' });

  it('duplicated it keeps everything but its id; pasted into another job it takes a cutter like its own and frees its heights', () => {
    const limit = {
      kind: 'within' as const,
      source: 'x',
      points: [
        [0, 0],
        [9, 0],
        [0, 9],
      ] as [number, number][],
      side: 'on' as const,
      offset: 0,
    };
    const held = withStep(withValue(job, 's2', 'bottom', -5), 's2', { limits: [limit] });
    const copied = copiedStep(held, 's2')!;
    const twice = withPasted(held, copied, 's1')!;
    expect(twice.job.steps.map((s) => s.id)).toEqual(['s1', twice.stepId, 's2']);
    expect({ ...twice.job.steps[1], id: 's2' }).toEqual(held.steps[1]);
    expect(twice.changes).toBe('');
    const { crib } = other;
    const elsewhere = {
      ...other,
      crib: { ...crib, assemblies: crib.assemblies.map((a) => (a.id === 't3' ? { ...a, id: 't9' } : a)) },
    };
    const there = withPasted(elsewhere, copied, null)!;
    const pasted = there.job.steps.at(-1)!;
    expect(there.changes).toMatch(/^Heights and limits/);
    expect(pasted).toMatchObject({ kind: 'parallel-passes', assemblyId: 't9', limits: [], values: { bottom: null } });
    // another cutter that can do it is told
    const smaller = { ...crib, cutters: crib.cutters.map((c) => (c.kind === 'ball' ? { ...c, DC: 3, RE: 1.5 } : c)) };
    expect(withPasted({ ...other, crib: smaller }, copied, null)!.changes).toMatch(
      /^It cuts with T\d ball 3: there is no ball 8/,
    );
    // what was kept of a copied step comes back, and what is none is passed over
    expect(readCopied(JSON.parse(JSON.stringify(copied)))).toEqual(copied);
    for (const bad of [null, {}, { ...copied, step: { ...copied.step, kind: 'carving' } }, 'x'])
      expect(readCopied(bad)).toBeUndefined();
    // a job without such a cutter takes none that cannot do it
    const flats = { ...crib, assemblies: crib.assemblies.filter((a) => toolOf(crib, a.id)!.cutter.kind === 'flat') };
    expect(withPasted({ ...other, crib: flats }, copied, null)).toBeUndefined();
  });

  it('of another kind it keeps cutter, limits, heights and all values that both have and the new kind takes', () => {
    const rest = kindOf('rest-roughing')!;
    const house = rest.house(shapeInCrib(job.crib, 't2')!);
    const made = withKind(withValue(job, 's1', 'bottom', -7), 's1', 'rest-roughing', house).steps[0]!;
    expect(made).toMatchObject({ kind: 'rest-roughing', assemblyId: 't2', values: { bottom: -7 } });
    expect('values' in rest.check(made.values)).toBe(true);
    for (const key of Object.keys(house))
      if (key in job.steps[0]!.values && key !== 'bottom') expect(made.values[key]).toBe(job.steps[0]!.values[key]);
  });

  it('of a kind that cuts deep and narrow it begins with that, and going back with what suits loops', () => {
    const house = (id: string) => kindOf(id)!.house(shapeInCrib(job.crib, 't2')!);
    const steady = withKind(job, 's1', 'steady-roughing', house('steady-roughing'));
    const { ap, ae, sideAllowance } = steady.steps[0]!.values;
    expect([ap, ae]).toEqual(['ap', 'ae'].map((key) => house('steady-roughing')[key]));
    expect(sideAllowance).toBe(job.steps[0]!.values['sideAllowance']);
    const back = withKind(steady, 's1', 'level-roughing', house('level-roughing')).steps[0]!.values;
    expect([back['ap'], back['ae']]).toEqual(['ap', 'ae'].map((key) => house('level-roughing')[key]));
  });

  it('cut harder or gentler its radial depth goes with it, and comes back to where it was', () => {
    const { ae } = job.steps[0]!.values;
    const gentle = withStrength(job, 's1', 0);
    expect(gentle.steps[0]!.values['ae']).toBeCloseTo(0.7 * Number(ae), 3);
    expect(withStrength(gentle, 's1', 2).steps[0]!.values['ae']).toBeCloseTo(Number(ae), 2);
    expect(withStrength(job, 's2', 4).steps[1]!.values).toEqual(job.steps[1]!.values);
  });

  it('a figure that is set otherwise than by its relation is no relation any more; the others stay', () => {
    const relations = { stickOut: { expr: '4 DC', unit: 'mm' as const }, number: { expr: '1', unit: 'mm' as const } };
    const related = withAssemblyChange(job, 't2', { relations });
    const dragged = withAssemblyChange(related, 't2', { stickOut: 55 });
    const of = (of: Job) => of.crib.assemblies.find((a) => a.id === 't2')!.relations;
    expect(of(related)).toEqual(relations);
    expect(Object.keys(of(dragged)!)).toEqual(['number']);
  });

  it('off it takes no time and no cutter change', () => {
    const off = withStep(job, 's1', { enabled: false });
    expect([changeBefore(job, 1), changeBefore(off, 1)]).toEqual([job.setup.machine.toolChange, 0]);
  });
});
