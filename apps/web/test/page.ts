import { type Provider, signal } from '@angular/core';
import { MatIconRegistry } from '@angular/material/icon';
import { FakeMatIconRegistry } from '@angular/material/icon/testing';
import { TestBed } from '@angular/core/testing';
import type { Job } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Subject } from 'rxjs';
import { cribOf, pathOf, testJob } from '../../../packages/core/test/shapes';
import { Engine } from '../src/app/engine/engine';
import { stateOf } from '../src/app/engine/runs';
import type { PlanState, StepSummary, ToldStep } from '../src/app/engine/views';
import { House } from '../src/app/keeping/house';
import { JobActions, jobFeature } from '../src/app/state/job.reducer';
import { PlanActions } from '../src/app/state/plan.reducer';
import { STORE } from './store';

/** A job of a roughing step and a finishing one, each with a cutter of its own. */
export function twoSteps(change: Partial<Job> = {}): Job {
  const crib = cribOf({ rough: ['bull', 12, 1.5, 25, 11, 60], fine: ['ball', 6, 3, 18, 5.6, 45] });
  return testJob(
    [
      { kind: 'level-roughing', assemblyId: 'rough' },
      { kind: 'parallel-passes', assemblyId: 'fine' },
    ],
    1,
    { crib, ...change },
  );
}

/** A store and what components need around it, without threads and without a browser's storage. */
/** Nothing has a size where nothing is drawn. */
class NoSizes {
  observe = (): void => undefined;
  unobserve = (): void => undefined;
  disconnect = (): void => undefined;
}

export function aPage(job: Job | null, engine: object = {}, providers: Provider[] = []): Store {
  globalThis.ResizeObserver ??= NoSizes;
  TestBed.configureTestingModule({
    providers: [
      ...STORE,
      { provide: MatIconRegistry, useClass: FakeMatIconRegistry },
      { provide: Engine, useValue: { piece: signal(undefined), lost: new Subject(), ...engine } },
      {
        provide: House,
        useValue: {
          magazineOf: () => undefined,
          steps: signal({}),
          materials: signal([]),
          machines: signal([]),
          keepStep: () => undefined,
        },
      },
      ...providers,
    ],
  });
  const store = TestBed.inject(Store);
  if (job) store.dispatch(JobActions.opened({ job }));
  return store;
}

/** What a calculated step shows: four motions, a second each. */
export function summaryOf(stepId: string, figures: Partial<StepSummary['figures']> = {}): StepSummary {
  const none = { p50: 0, p90: 0, p99: 0, largest: 0, gouge: 0, spread: 0, mean: 0 };
  const told: ToldStep = {
    stepId,
    name: crypto.randomUUID(),
    path: pathOf([
      [0, 0, 5],
      [10, 0, 5],
      [10, 10, 5],
      [0, 10, 5],
    ]),
    times: Float64Array.of(0, 1, 2, 3),
    figures: {
      time: 3,
      seconds: 0.1,
      lengths: { rapid: 0, entry: 0, link: 0, cut: 30 },
      air: 0,
      retracts: 0,
      removed: 100,
      leftover: none,
      neededStickOut: 30,
      reach: [...Array<number>(29).fill(0), 30],
      findings: [],
      leftOut: [],
      notes: [],
      hardSteel: [],
      rate: [],
      ...figures,
    } as unknown as StepSummary['figures'],
  };
  return stateOf({ revision: 0, serial: 0, fresh: [], summaries: [told] }).summaries[0]!;
}

/** The planner's answer to the job as it is: what was calculated, and which of it is up to date. */
export function told(store: Store, summaries: readonly StepSummary[], fresh: readonly string[]): void {
  const revision = store.selectSignal(jobFeature.selectRevision)();
  const state: PlanState = { revision, serial: 0, summaries, fresh };
  store.dispatch(PlanActions.taken({ state: { ...state, hasPiece: true } }));
}
