import 'fake-indexeddb/auto';
import { TestBed } from '@angular/core/testing';
import { EsquisseError, fileHash, type Job, openBundle, packBundle } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Subject } from 'rxjs';
import { aPage, twoSteps } from '../../../test/page';
import { Ask, type Question } from '../shared/ask';
import { JobActions, jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { keepJob, keptFile, keptJobs, openDatabase } from './database';
import { Jobs } from './jobs';
import { Keeper } from './keeper';
import { Tabs } from './tabs';

const BYTES = new Uint8Array([1, 2, 3]);
const other = new Uint8Array([4, 5, 6]);

function jobFile(job: Job, bytes = BYTES): File {
  const zip = packBundle({ job, files: new Map([[job.part!.file, bytes]]) });
  return new File([zip as Uint8Array<ArrayBuffer>], 'mine.zip', { lastModified: 1000 });
}

describe('jobs', () => {
  let store: Store;
  let jobs: Jobs;
  let questions: Question[];
  let answer: string | undefined;
  let broken: Uint8Array | undefined;

  beforeEach(async () => {
    const database = await openDatabase();
    await Promise.all((['jobs', 'files'] as const).map((name) => database.clear(name)));
    questions = [];
    answer = broken = undefined;
    const read = (file: string, bytes: Uint8Array) =>
      broken?.join() === bytes.join()
        ? Promise.reject(new EsquisseError('file-unreadable', 'It cannot be read.'))
        : Promise.resolve({ file, hash: fileHash(file, bytes) });
    const engine = {
      read,
      openJob: async (file: File) => openBundle(new Uint8Array(await file.arrayBuffer()), file.name),
      lacking: () => Promise.resolve([]),
      revised: (_: Job, next: Job) => Promise.resolve(next),
    };
    store = aPage(null, engine, [
      {
        provide: Ask,
        useValue: { for: (q: Question) => (questions.push(q), Promise.resolve(answer)) },
      },
      {
        provide: Tabs,
        useValue: { taken: new Subject(), hold: () => Promise.resolve(true), takeOver: () => Promise.resolve() },
      },
    ]);
    jobs = TestBed.inject(Jobs);
  });

  const open = (): Job | null => store.selectSignal(jobFeature.selectJob)();
  const trouble = (): string | undefined => store.selectSignal(planFeature.selectTrouble)()?.message;

  it('a job from a file is kept with what its part holds', async () => {
    await jobs.openFile(jobFile(twoSteps()));
    expect(trouble()).toBeUndefined();
    expect(open()!.part!.hash).toBe(fileHash('part.stl', BYTES));
    expect((await keptJobs()).map((k) => k.id)).toEqual(['test']);
    expect(questions).toEqual([]);
  });

  it('one that is kept already is never overwritten without being asked, whatever is answered', async () => {
    await jobs.openFile(jobFile(twoSteps()));
    const own = { ...open()!, name: 'My own work' };
    await keepJob(own);
    const incoming = jobFile(twoSteps({ name: 'From the file' }));

    await jobs.openFile(incoming);
    expect(questions[0]!.text).toContain('My own work');
    expect((await keptJobs()).map((k) => k.job.name)).toEqual(['My own work']);

    answer = 'both';
    await jobs.openFile(incoming);
    expect((await keptJobs()).map((k) => k.job.name).sort()).toEqual(['From the file', 'My own work']);
    expect(open()!.id).not.toBe('test');

    answer = 'kept';
    await jobs.openFile(incoming);
    expect(open()).toMatchObject({ id: 'test', name: 'My own work' });

    answer = 'replace';
    await jobs.openFile(incoming);
    expect((await keptJobs()).find((k) => k.id === 'test')!.job.name).toBe('From the file');
  });

  it('a file that cannot be read leaves the open job, and what is kept, as they were', async () => {
    await jobs.openFile(jobFile(twoSteps()));
    const before = open();
    broken = other;
    await jobs.openFile(jobFile(twoSteps({ id: 'other' }), other));
    expect(trouble()).toContain('It cannot be read.');
    expect(open()).toBe(before);
    expect(await keptJobs()).toHaveLength(1);
    await jobs.openFile(new File([new Uint8Array([80, 75, 3, 4, 0])], 'half.zip'));
    expect(open()).toBe(before);
  });

  it('a file opened while the last job is still brought back stays open', async () => {
    await keepJob(twoSteps({ id: 'last' }), { files: { [fileHash('part.stl', BYTES)]: BYTES } });
    const restored = jobs.restore();
    await jobs.openFile(jobFile(twoSteps({ id: 'from-file' })));
    await restored;
    expect(trouble()).toBeUndefined();
    expect(open()!.id).toBe('from-file');
  });

  it('what the browser has given up of a kept job is kept again with its next change', async () => {
    await jobs.openFile(jobFile(twoSteps()));
    const { hash } = open()!.part!;
    await (await openDatabase()).clear('files');
    expect(await TestBed.inject(Keeper).keep({ ...open()!, name: 'Changed' })).toBe(true);
    expect([...(await keptFile('test', { file: 'part.stl', hash, unit: 'mm' }))!]).toEqual([...BYTES]);
    // changes that follow at once are newer than what is kept with the file
    await (await openDatabase()).clear('files');
    const names = ['one', 'two', 'three'];
    await Promise.all(names.map((name) => TestBed.inject(Keeper).keep({ ...open()!, name })));
    expect((await keptJobs())[0]!.job.name).toBe('three');
    expect(await keptFile('test', { file: 'part.stl', hash, unit: 'mm' })).toBeDefined();
  });

  it('an own job whose part cannot be read any more opens all the same, with the reason', async () => {
    await jobs.openFile(jobFile(twoSteps()));
    broken = BYTES;
    await jobs.openKept('test');
    expect(open()!.id).toBe('test');
    expect(trouble()).toContain('It cannot be read.');
  });

  it('a browser that cannot keep the job says so once, lastingly, until it can', async () => {
    await jobs.openFile(jobFile(twoSteps()));
    const keeper = TestBed.inject(Keeper);
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    expect(await keeper.keep(open()!)).toBe(false);
    expect(trouble()).toMatch(/no room left.*Work goes on, but only a file keeps it/);
    store.dispatch(JobActions.changed({ job: { ...open()!, name: 'Changed' } }));
    expect(trouble()).toMatch(/only a file keeps it/);
    put.mockRestore();
    expect(await keeper.keep(open()!)).toBe(true);
    expect(keeper.trouble()).toBe('');
    // what was written halfway may cost the browser more at its next start
    expect(trouble()).toContain('keeps the job again');
    expect(keeper.isDoubtful()).toBe(true);
    await keeper.noteSaved(open()!.id);
    expect(keeper.isDoubtful()).toBe(false);
    // the next change is in the browser alone again, and told so
    store.dispatch(PlanActions.troubleSeen());
    vi.useFakeTimers({ now: Date.now() + 1000, toFake: ['Date'] });
    expect(await keeper.keep(open()!)).toBe(true);
    vi.useRealTimers();
    expect(keeper.isDoubtful()).toBe(true);
    expect(trouble()).toContain('keeps the job again');
  });
});
