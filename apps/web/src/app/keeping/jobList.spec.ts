import 'fake-indexeddb/auto';
import { TestBed } from '@angular/core/testing';
import type { Job } from '@esquisse/core';
import { aPage, twoSteps } from '../../../test/page';
import { keepJob, keptFile, keptJob, noteLook, openDatabase, wholeJob } from './database';
import { JobList } from './jobList';
import { Keeper } from './keeper';

const BYTES = new Uint8Array([1, 2, 3]);
const LOOK = { time: 60, fresh: 2, size: [1, 2, 3] as const, picture: '' };

describe('the list of jobs', () => {
  let list: JobList;
  const job: Job = { ...twoSteps(), part: { ...twoSteps().part!, hash: 'h' } };
  const named = (name: string): string[] => list.all().flatMap((k) => (k.job.name === name ? [k.id] : []));

  beforeEach(async () => {
    const database = await openDatabase();
    await Promise.all((['jobs', 'files'] as const).map((name) => database.clear(name)));
    await keepJob(job, { files: { h: BYTES }, saved: 5 });
    aPage(null, {});
    list = TestBed.inject(JobList);
    await list.load();
  });

  it('a copy is a whole job of its own: other id and name, its own files, saved to no file yet', async () => {
    await list.duplicate(job.id);
    const [copy] = named(`${job.name} 2`);
    expect(copy).toBeTruthy();
    expect(copy).not.toBe(job.id);
    const kept = (await keptJob(copy!))!;
    expect(kept.saved).toBeUndefined();
    expect({ ...kept.job, id: job.id, name: job.name }).toEqual(job);
    // deleting the first takes nothing from the copy
    await list.remove(job.id);
    expect([...(await keptFile(copy!, { file: 'part.stl', hash: 'h', unit: 'mm' }))!]).toEqual([...BYTES]);
  });

  it('the copy is of the job with its last change, which may still be under way', async () => {
    void TestBed.inject(Keeper).keep({ ...job, name: 'Changed' });
    await list.duplicate(job.id);
    expect(named('Changed 2')).toHaveLength(1);
  });

  it('what was deleted comes back with its files, and never over what was kept since', async () => {
    const deleted = (await list.remove(job.id))!;
    expect(await keptJob(job.id)).toBeUndefined();
    expect(await keptFile(job.id, job.part!)).toBeUndefined();
    await list.bringBack(deleted);
    expect((await keptJob(job.id))!.job).toEqual(job);
    expect((await wholeJob(job.id))!.files).toHaveLength(1);
    await keepJob({ ...job, name: 'Newer' });
    await list.bringBack(deleted);
    expect((await keptJob(job.id))!.job.name).toBe('Newer');
  });

  it('a name that cannot be taken is refused with the reason, and nothing is changed', async () => {
    expect(await list.rename(job.id, { name: '' })).toBeTruthy();
    expect(await list.rename(job.id, { name: 'Fine', setup: 'not/a program' })).toMatch(/Letters, digits/);
    expect((await keptJob(job.id))!.job).toEqual(job);
    expect(await list.rename(job.id, { name: ' Other ', setup: 'back side' })).toBeUndefined();
    expect((await keptJob(job.id))!.job).toMatchObject({ name: 'Other', setup: { name: 'back side' } });
    expect((await wholeJob(job.id))!.files).toHaveLength(1);
  });

  it('what a job looked like is that of the job as it is kept, or it is not shown as such', async () => {
    await noteLook(job, LOOK);
    expect(await keptJob(job.id)).toMatchObject({ look: LOOK, isLookOfNow: true });
    await keepJob(job);
    expect((await keptJob(job.id))!.isLookOfNow).toBe(true);
    const changed = { ...job, name: 'Changed' };
    await keepJob(changed);
    expect((await keptJob(job.id))!.isLookOfNow).toBeFalsy();
    // told late, of the state before
    await noteLook(job, LOOK);
    expect((await keptJob(job.id))!.isLookOfNow).toBeFalsy();
    await noteLook(changed, { ...LOOK, picture: 'data:,' });
    await noteLook(changed, LOOK);
    expect(await keptJob(job.id)).toMatchObject({ look: { picture: 'data:,' }, isLookOfNow: true });
  });
});
