import 'fake-indexeddb/auto';
import type { Job } from '@esquisse/core';
import { vi } from 'vitest';
import { twoSteps } from '../../../test/page';
import { keepJob, keptFile, keptJob, keptJobs, openDatabase } from './database';
import { JobKeeping } from './jobKeeping';

const named = (name: string): Job => twoSteps({ name });
const file = (hash: string) => ({ file: 'part.stl', hash, unit: 'mm' }) as const;

describe('keeping jobs', () => {
  beforeEach(async () => {
    const database = await openDatabase();
    await Promise.all((['jobs', 'files'] as const).map((name) => database.clear(name)));
  });

  it('of many changes the newest is kept, with the files of all of them, and all learn that it is', async () => {
    const keeping = new JobKeeping();
    const one = keeping.keepJob(named('one'), { files: { a: new Uint8Array([1]) }, demo: 'demo' });
    const states = Array.from({ length: 20 }, (_, k) => keeping.keepJob(named(`state ${k}`), {}));
    const last = keeping.keepJob(named('last'), { files: { b: new Uint8Array([2]) }, demo: undefined });
    await Promise.all([one, ...states, last]);
    const kept = await keptJob('test');
    expect(kept?.job.name).toBe('last');
    expect(kept?.demo).toBeUndefined();
    expect([...(await keptFile('test', file('a')))!]).toEqual([1]);
    expect([...(await keptFile('test', file('b')))!]).toEqual([2]);
  });

  it('one that cannot be kept is told to whoever asked, and the next one is tried', async () => {
    const keeping = new JobKeeping();
    const bad = { ...named('bad'), id: () => undefined } as unknown as Job;
    await expect(keeping.keepJob(bad, {})).rejects.toThrow('cannot keep the job');
    await keeping.keepJob(named('good'), {});
    expect((await keptJob('test'))?.job.name).toBe('good');
  });

  it('a database that was closed is opened again', async () => {
    await keepJob(named('before'));
    (await openDatabase()).close();
    await keepJob(named('after'));
    expect((await keptJob('test'))?.job.name).toBe('after');
  });

  it('a database that never answers is told of within three seconds, at once from then on, and used again once it does', async () => {
    (await openDatabase()).close();
    const open = vi.spyOn(indexedDB, 'open').mockImplementation(() => new IDBOpenDBRequest());
    vi.useFakeTimers();
    const told = () => expect(keptJobs()).rejects.toThrow('another tab with an older page holds it');
    try {
      const first = told();
      await vi.advanceTimersByTimeAsync(3000);
      await first;
      // no time passes any more
      await told();
      await vi.advanceTimersByTimeAsync(3000);
    } finally {
      vi.useRealTimers();
      open.mockRestore();
    }
    // it answers again: whoever asks is told once more, and then it is there
    await told();
    await vi.waitFor(() => keptJobs());
  });
});
