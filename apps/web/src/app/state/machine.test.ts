// @vitest-environment jsdom
import '@angular/compiler';
import { TestBed } from '@angular/core/testing';
import { BrowserTestingModule, platformBrowserTesting } from '@angular/platform-browser/testing';
import { signal } from '@angular/core';
import { provideEffects } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import {
  type Caller,
  callHere,
  CancelFlag,
  crewOf,
  EsquisseError,
  fileHash,
  type Job,
  type PathCache,
  type Progress,
  readPart,
  release,
  type Session,
  type StepReader,
  type StepResult,
  writeStl,
} from '@esquisse/core';
import fc from 'fast-check';
import { Subject } from 'rxjs';
import { afterEach, beforeAll, describe, expect, it } from 'vitest';
import { sessionOf, sheet, squarePocket, testJob, workHere } from '../../../../../packages/core/test/shapes';
import { STORE } from '../../../test/store';
import { SteelDrawing } from '../engine/display';
import { Engine } from '../engine/engine';
import { Planner } from '../engine/planner';
import { postedOf, runOf, stateOf, takenOf } from '../engine/runs';
import type { PlanState, ToldState } from '../engine/views';
import { Jobs } from '../keeping/jobs';
import { withAssemblyChange, withNewStep, withoutStep, withStepAt, withValue } from './edit';
import { JobActions, jobFeature } from './job.reducer';
import { PlanEffects } from './plan.effects';
import { PlanActions, planFeature } from './plan.reducer';

/** Files of parts by their hashes, small enough to be calculated many times over. */
const FILES = new Map(
  [squarePocket(11, 7, 3, -7), sheet([-11, -11, 11, 11], 2, -7, (x, y) => -2.5 * Math.exp(-(x * x + y * y) / 40))].map(
    (soup) => {
      const bytes = writeStl(soup);
      return [fileHash('part.stl', bytes), bytes] as const;
    },
  ),
);
const [POCKET, BOWL] = [...FILES.keys()] as [string, string];

function jobOf(id: string, part: string): Job {
  const job = testJob(
    [
      { kind: 'level-roughing', assemblyId: 't4', values: { ap: 1.5, smallestOpening: 6, stairs: null } },
      { kind: 'parallel-passes', assemblyId: 't3', values: { scallop: 0.3, mostSteel: 3, tolerance: 0.05 } },
    ],
    0.5,
    { cell: 0.7, id },
  );
  return { ...job, part: { ...job.part!, hash: part } };
}

/** What a calculation from scratch of a job gives, known once for each; up to a step that finds nothing to cut. */
const scratch = new Map<string, Promise<Session>>();
function fromScratch(job: Job): Promise<Session> {
  const key = JSON.stringify({ ...job, id: '', name: '' });
  const known = scratch.get(key) ?? calculate(job);
  scratch.set(key, known);
  return known;
}

async function calculate(job: Job): Promise<Session> {
  const { mesh } = await readPart('part.stl', FILES.get(job.part!.hash)!, 'mm', noStep);
  const session = sessionOf(job, mesh);
  await session.calculate(workHere).catch((error: EsquisseError) => {
    if (error.code !== 'step-impossible') throw error;
  });
  return session;
}

const noStep: StepReader = () => Promise.reject(new Error('no STEP here'));

/** Pieces of work that wait until the test releases them. */
class Host {
  private readonly waiting: (() => void)[] = [];
  readonly caller: Caller = async (task, input, cancel) => {
    await new Promise<void>((resolve) => this.waiting.push(resolve));
    return callHere(task, input, cancel);
  };

  get isBusy(): boolean {
    return this.waiting.length > 0;
  }

  private readonly messages: (() => void)[] = [];

  /** A message to the planner; resolves when it has come to its turn. */
  sent(): Promise<void> {
    return new Promise((resolve) => this.messages.push(resolve));
  }

  /** Lets messages come to the planner. */
  async deliver(count: number): Promise<void> {
    for (let k = 0; k < count && this.messages.length > 0; k++) {
      this.messages.shift()!();
      await settle();
    }
  }

  private readonly news: (() => void)[] = [];

  /** What the planner tells while it calculates; it goes by a channel of its own. */
  tell(news: () => void): void {
    this.news.push(news);
  }

  /** Lets news come to the page: before or after answers, but in their order. */
  async hear(count: number): Promise<void> {
    for (let k = 0; k < count && this.news.length > 0; k++) {
      this.news.shift()!();
      await settle();
    }
  }

  /** Lets so many pieces of work be done, not in the order in which they were begun. */
  async releaseSome(count: number, which: number): Promise<void> {
    for (let k = 0; k < count && this.isBusy; k++) {
      this.waiting.splice(which % this.waiting.length, 1)[0]!();
      await settle();
    }
  }

  async releaseAll(): Promise<void> {
    for (let quiet = 0; quiet < 3; quiet++) {
      if (this.isBusy || this.messages.length > 0) quiet = 0;
      await this.deliver(Infinity);
      await this.releaseSome(Infinity, 0);
      await settle();
      await this.hear(Infinity);
    }
  }
}

const settle = async (): Promise<void> => {
  for (let k = 0; k < 3; k++) await new Promise((resolve) => setImmediate(resolve));
};

/** The planner without threads, behind the engine's face. */
class PlannerHere {
  readonly piece = signal(undefined);
  readonly lost = new Subject<EsquisseError>();
  planner: Planner;
  private revision = 0;

  constructor(
    private readonly host: Host,
    private readonly paths: PathCache,
  ) {
    this.planner = this.start();
  }

  start(): Planner {
    const meshes = { get: () => Promise.resolve(undefined), put: () => Promise.resolve() };
    const planner = new Planner({ paths: this.paths, meshes, readStep: noStep, stopStep: () => undefined });
    planner.workWith([this.host.caller, this.host.caller]);
    return (this.planner = planner);
  }

  read(bytes: Uint8Array) {
    return this.ask((planner) => planner.read('part.stl', bytes, 'mm'));
  }

  lacking(job: Job) {
    return this.ask((planner) => planner.lacking(job));
  }

  take(job: Job, revision: number) {
    this.revision = revision;
    return this.ask((planner) => planner.take(job, revision)).then(takenOf);
  }

  keptThrough() {
    return this.ask((planner) => planner.keptThrough());
  }

  calculate(id: string, through: string, progress: (p: Progress) => void, state: (s: PlanState) => void) {
    const { planner: own } = this;
    const onState = (told: ToldState): void =>
      this.host.tell(() => {
        if (own === this.planner) state(stateOf(told));
      });
    return this.ask((planner) => planner.calculate(id, through, progress, onState)).then(stateOf);
  }

  release() {
    const { revision } = this;
    return this.ask((planner) => planner.release(revision, new CancelFlag().cell, () => undefined)).then(postedOf);
  }

  stop(): void {
    void this.ask((planner) => planner.stop()).catch(() => undefined);
  }

  /** Messages come to the planner in their order, when the test lets them; those to one that is gone come to nobody. */
  private async ask<T>(call: (planner: Planner) => T | Promise<T>): Promise<T> {
    const { planner } = this;
    await this.host.sent();
    if (planner !== this.planner) throw new EsquisseError('worker-lost', 'It has ended.');
    return call(planner);
  }
}

/** Paths kept between visits, by their keys. */
function memory(): PathCache {
  const kept = new Map<string, Awaited<ReturnType<PathCache['get']>>>();
  return {
    get: (key) => Promise.resolve(kept.get(key)),
    put: (key, plan) => Promise.resolve(void kept.set(key, plan)),
  };
}

/** The application without its screens. */
class Page {
  readonly host = new Host();
  private readonly paths = memory();
  private readonly engine = new PlannerHere(this.host, this.paths);
  private readonly store: Store;
  /** Steps that were asked for, are not done, and nobody called off. */
  readonly asked = new Set<string>();

  constructor() {
    TestBed.configureTestingModule({
      providers: [
        ...STORE,
        provideEffects(PlanEffects),
        { provide: Engine, useValue: this.engine },
        { provide: Jobs, useValue: { readAgain: (job: Job) => this.readAgain(job) } },
      ],
    });
    this.store = TestBed.inject(Store);
  }

  private async readAgain(job: Job): Promise<void> {
    for (const { hash } of await this.engine.lacking(job)) await this.engine.read(FILES.get(hash)!);
  }

  get job(): Job | null {
    return this.store.selectSignal(jobFeature.selectJob)();
  }

  /** A job is opened once its files are read. */
  open(job: Job): void {
    const read = this.engine.read(FILES.get(job.part!.hash)!);
    void read.then(
      () => {
        this.asked.clear();
        this.store.dispatch(JobActions.opened({ job }));
      },
      () => undefined,
    );
  }

  edit(change: (job: Job) => Job | undefined): void {
    const job = this.job;
    const next = job && change(job);
    if (next) this.store.dispatch(JobActions.changed({ job: next }));
    this.callOffGone();
  }

  undo(): void {
    this.store.dispatch(JobActions.undo());
    this.callOffGone();
  }

  redo(): void {
    this.store.dispatch(JobActions.redo());
    this.callOffGone();
  }

  /** Who takes a step out of the plan calls its calculation off, also when it comes back later. */
  private callOffGone(): void {
    for (const id of this.asked) if (!this.job?.steps.some((s) => s.id === id)) this.asked.delete(id);
  }

  calculate(k: number): void {
    const step = this.job?.steps[k % Math.max(1, this.job.steps.length)];
    if (!step) return;
    this.asked.add(step.id);
    this.store.dispatch(PlanActions.calculate({ through: step.id }));
  }

  stop(): void {
    this.asked.clear();
    this.store.dispatch(PlanActions.stop({ id: 'calculation' }));
  }

  post(): void {
    this.store.dispatch(PlanActions.postAndProve());
  }

  /** The page is loaded again: only what is kept remains. */
  reload(): void {
    const { job } = this;
    this.asked.clear();
    this.engine.start();
    this.store.dispatch(PlanActions.plannerLost());
    if (job) this.open(job);
  }

  get fresh(): readonly string[] {
    return this.store.selectSignal(planFeature.selectFresh)();
  }

  get works(): readonly string[] {
    return this.store
      .selectSignal(planFeature.selectWorks)()
      .map((w) => w.id);
  }

  get trouble(): string | undefined {
    return this.store.selectSignal(planFeature.selectTrouble)()?.message;
  }

  /** Whatever is shown as up to date equals a calculation from scratch of the job as it is. */
  async check(): Promise<void> {
    const { job, fresh } = this;
    for (const id of fresh) this.asked.delete(id);
    // whoever was told why not has an answer, also when the next change takes the message away
    if (this.trouble && !this.works.includes('calculation')) this.asked.clear();
    if (!job) return;
    const summaries = this.store.selectSignal(planFeature.selectSummaries)();
    const released = this.store.selectSignal(planFeature.selectReleased)();
    if (fresh.length === 0 && !released) return;
    const exact = await fromScratch(job);
    for (const id of fresh) {
      const shown = summaries.find((s) => s.stepId === id)!;
      const { path, times, contact, figures, steel } = exact.results.get(id) as StepResult;
      expect(runOf(shown)).toEqual({ path, times, contact });
      expect({ ...shown.figures, seconds: 0 }).toEqual({ ...figures, seconds: 0 });
      const end = { stepId: id, motion: path.x.length - 1 };
      expect(this.engine.planner.steel.at(end).heights).toEqual(new SteelDrawing().of(steel.after).heights);
    }
    if (released) {
      expect(fresh).toHaveLength(job.steps.length);
      const crew = crewOf([callHere], new CancelFlag());
      expect(released.text).toBe((await release(exact, crew)).text);
    }
  }
}

type Move = (page: Page) => void | Promise<void>;
const nat = fc.nat({ max: 20 });
const named = (name: string, move: fc.Arbitrary<Move>): fc.Arbitrary<[string, Move]> => move.map((m) => [name, m]);
const stepOf = (job: Job, k: number) => job.steps[k % Math.max(1, job.steps.length)];

const moves: fc.Arbitrary<[string, Move]> = fc.oneof(
  {
    weight: 7,
    arbitrary: named(
      'messages come',
      fc.constantFrom(1, 2, 9).map(
        (n): Move =>
          (page) =>
            page.host.deliver(n),
      ),
    ),
  },
  {
    weight: 9,
    arbitrary: named(
      'pieces of work done',
      fc.tuple(fc.constantFrom(1, 3, 20, 80, 200), nat).map(
        ([count, k]): Move =>
          (page) =>
            page.host.releaseSome(count, k),
      ),
    ),
  },
  {
    weight: 3,
    arbitrary: named(
      'news come',
      fc.constantFrom(1, 9).map(
        (n): Move =>
          (page) =>
            page.host.hear(n),
      ),
    ),
  },
  {
    weight: 3,
    arbitrary: named(
      'calculate',
      nat.map(
        (k): Move =>
          (page) =>
            page.calculate(k),
      ),
    ),
  },
  {
    weight: 2,
    arbitrary: named(
      'value',
      fc.tuple(nat, fc.constantFrom(0.2, 0.3, 0.4)).map(
        ([k, v]): Move =>
          (page) =>
            page.edit((job) => {
              const step = stepOf(job, k);
              return step && withValue(job, step.id, step.kind === 'level-roughing' ? 'sideAllowance' : 'scallop', v);
            }),
      ),
    ),
  },
  {
    weight: 2,
    arbitrary: named(
      'feed',
      fc.constantFrom(0.05, 0.08, 0.1).map(
        (fz): Move =>
          (page) =>
            page.edit((job) => withAssemblyChange(job, 't4', { fz })),
      ),
    ),
  },
  {
    weight: 2,
    arbitrary: named(
      'steel above',
      fc.constantFrom(0.5, 1).map(
        (maxZ): Move =>
          (page) =>
            page.edit((job) => (job.blank.kind === 'offset' ? { ...job, blank: { ...job.blank, maxZ } } : undefined)),
      ),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'crossing',
      fc.constantFrom(5, 10).map(
        (safeHeight): Move =>
          (page) =>
            page.edit((job) => ({ ...job, setup: { ...job.setup, safeHeight } })),
      ),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'work zero',
      fc.constantFrom('low' as const, 'middle' as const).map(
        (x): Move =>
          (page) =>
            page.edit((job) => ({ ...job, setup: { ...job.setup, workZero: { ...job.setup.workZero, x } } })),
      ),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'part',
      fc.constantFrom(POCKET, BOWL).map(
        (hash): Move =>
          (page) =>
            page.edit((job) => ({ ...job, part: { ...job.part!, hash } })),
      ),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'delete',
      nat.map(
        (k): Move =>
          (page) =>
            page.edit((job) => {
              const s = stepOf(job, k);
              return s && withoutStep(job, s.id);
            }),
      ),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'add',
      fc.constant<Move>((page) =>
        page.edit((job) => (job.steps.length < 3 ? withNewStep(job, 'facing', null)?.job : undefined)),
      ),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'move',
      nat.map(
        (k): Move =>
          (page) =>
            page.edit((job) => {
              const s = stepOf(job, k);
              return s && withStepAt(job, s.id, 0);
            }),
      ),
    ),
  },
  {
    weight: 3,
    arbitrary: named(
      'undo',
      fc.constant<Move>((page) => page.undo()),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'redo',
      fc.constant<Move>((page) => page.redo()),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'stop',
      fc.constant<Move>((page) => page.stop()),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'post',
      fc.constant<Move>((page) => page.post()),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'another job',
      fc.constantFrom('a', 'b').map(
        (id): Move =>
          (page) =>
            page.open(jobOf(id, id === 'a' ? POCKET : BOWL)),
      ),
    ),
  },
  {
    weight: 1,
    arbitrary: named(
      'reload',
      fc.constant<Move>((page) => page.reload()),
    ),
  },
);

describe('store, planner and session', () => {
  beforeAll(() => {
    TestBed.initTestEnvironment(BrowserTestingModule, platformBrowserTesting());
  });
  afterEach(() => TestBed.resetTestingModule());

  it('whatever is done while steps are calculated, what is shown as up to date is what the job as it is gives', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(moves, { minLength: 8, maxLength: 40 }), async (list) => {
        TestBed.resetTestingModule();
        const page = new Page();
        page.open(jobOf('a', POCKET));
        await settle();
        await page.host.deliver(3);
        for (const [, move] of list) {
          await move(page);
          await settle();
          await page.check();
        }
        // what was asked for and not called off is done, or it is told why not
        await page.host.releaseAll();
        const left = [...page.asked].filter(
          (id) => page.job!.steps.some((s) => s.id === id) && !page.fresh.includes(id),
        );
        if (left.length > 0) expect(page.trouble, `${left.join()} left undone in silence`).toBeTruthy();
        // what is asked for last is not ignored, whatever went before
        page.stop();
        await page.host.releaseAll();
        page.calculate((page.job?.steps.length ?? 1) - 1);
        await page.host.releaseAll();
        await page.check();
        expect(page.works).toEqual([]);
        if (page.fresh.length < (page.job?.steps.length ?? 0)) expect(page.trouble).toBeTruthy();
        if (page.trouble) expect(page.trouble).not.toMatch(/is not there/);
      }),
      { numRuns: Number(process.env['MACHINE_RUNS'] ?? 40) },
    );
  });
});
