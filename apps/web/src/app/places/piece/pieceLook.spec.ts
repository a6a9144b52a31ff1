import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { EsquisseError, type Lay, layTurned, type Picked, type Survey } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { aPage, told, twoSteps } from '../../../../test/page';
import { JobActions, jobFeature } from '../../state/job.reducer';
import { planFeature } from '../../state/plan.reducer';
import { PieceLook } from './pieceLook';

/** Something that was asked of the planner, and is answered by the test. */
interface Asked<T> {
  readonly lay: Lay;
  readonly answer: (value: T) => void;
  readonly fail: (error: Error) => void;
}

describe('looking a part over', () => {
  let store: Store;
  let look: PieceLook;
  let surveys: Asked<Survey>[];
  let picks: Asked<Picked>[];

  const settled = async (): Promise<void> => {
    TestBed.tick();
    await new Promise((resolve) => setTimeout(resolve));
    TestBed.tick();
  };
  const part = () => store.selectSignal(jobFeature.selectJob)()!.part!;
  const turn = (): void => {
    const job = store.selectSignal(jobFeature.selectJob)()!;
    const lay = layTurned(part().lay, 'X', 180);
    store.dispatch(JobActions.changed({ job: { ...job, part: { ...part(), lay } } }));
  };
  const found = (triangles: number): Survey => ({ triangles }) as Survey;

  beforeEach(async () => {
    surveys = [];
    picks = [];
    const ask =
      <T>(list: Asked<T>[]) =>
      (lay: Lay): Promise<T> =>
        new Promise((answer, fail) => list.push({ lay, answer, fail }));
    const piece = signal({ key: 'part', boxes: { part: { minX: 0, minY: 0, minZ: 0, maxX: 9, maxY: 9, maxZ: 9 } } });
    store = aPage(twoSteps(), { piece, survey: ask(surveys), pick: ask(picks) });
    look = TestBed.inject(PieceLook);
    look.shown.set(true);
    await settled();
  });

  it('waits until the planner knows how the part lies, and is for that', async () => {
    expect(surveys).toHaveLength(0);
    told(store, [], []);
    await settled();
    expect(surveys.map((s) => s.lay)).toEqual([part().lay]);
    surveys[0]!.answer(found(1));
    await settled();
    expect(look.survey()?.triangles).toBe(1);
    turn();
    await settled();
    expect(look.survey()).toBeUndefined();
    expect(surveys).toHaveLength(1);
    told(store, [], []);
    await settled();
    expect(surveys[1]!.lay).toEqual(part().lay);
  });

  it('turned meanwhile, it shows what is found for the way it lies now; what was called off for that stops nothing', async () => {
    told(store, [], []);
    await settled();
    turn();
    told(store, [], []);
    await settled();
    expect(surveys).toHaveLength(2);
    // the second look has called the first one off
    surveys[0]!.fail(new EsquisseError('cancelled', 'Called off.'));
    await settled();
    expect(look.stopped()).toBe(false);
    surveys[1]!.answer(found(2));
    await settled();
    expect(look.survey()?.triangles).toBe(2);
  });

  it('stopped by a person it says so, and is taken up again', async () => {
    told(store, [], []);
    await settled();
    surveys[0]!.fail(new EsquisseError('cancelled', 'Called off.'));
    await settled();
    expect(look.stopped()).toBe(true);
    expect(store.selectSignal(planFeature.selectTrouble)()).toBeNull();
    look.lookOver();
    await settled();
    surveys[1]!.answer(found(3));
    await settled();
    expect(look.survey()?.triangles).toBe(3);
    expect(look.stopped()).toBe(false);
  });

  it('a place that was pointed at before the part was turned is none of the part as it lies now', async () => {
    told(store, [], []);
    await settled();
    void look.point(0, [1, 2, 3], 1);
    await settled();
    turn();
    await settled();
    picks[0]!.answer({ kind: 'face', at: [1, 2, 3], triangle: 0, triangles: [0] });
    await settled();
    expect(look.picks()).toEqual([]);
    void look.point(0, [1, 2, -3], 1);
    await settled();
    expect(picks).toHaveLength(1);
    told(store, [], []);
    await settled();
    expect(picks[1]!.lay).toEqual(part().lay);
    picks[1]!.answer({ kind: 'face', at: [1, 2, -3], triangle: 0, triangles: [0] });
    await settled();
    expect(look.picks()).toHaveLength(1);
  });
});
