import { inject, Injectable, signal } from '@angular/core';
import { EsquisseError, type Job, messageOf, parseJob } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { PlanActions } from '../state/plan.reducer';
import { addJob, changeKept, keptJobs, takeOut, wholeJob, type WholeJob } from './database';
import { Keeper } from './keeper';
import { freeName, newId } from './names';
import type { KeptJob } from './records';

/** The kept jobs, and what is done with one that need not be open. */
@Injectable({ providedIn: 'root' })
export class JobList {
  private readonly store = inject(Store);
  private readonly keeper = inject(Keeper);
  /** The last changed first. */
  readonly all = signal<readonly KeptJob[]>([]);

  async load(): Promise<void> {
    await this.guarded(async () => this.all.set(await keptJobs()));
  }

  /** Keeps a copy of a job under a name of its own. */
  async duplicate(id: string): Promise<void> {
    await this.guarded(async () => {
      // the open job's last change may still be under way
      await this.keeper.settled();
      const whole = await wholeJob(id);
      if (!whole) throw gone();
      const { job: like, look, isLookOfNow } = whole.kept;
      const job = { ...like, id: newId(like.id), name: freeName(like, await keptJobs()) };
      await addJob({ kept: { id: job.id, job, changed: Date.now(), look, isLookOfNow }, files: whole.files });
      await this.load();
    });
  }

  /** Gives a job that is not open other names. @returns why not, or undefined */
  async rename(id: string, names: Names): Promise<string | undefined> {
    try {
      await changeKept(id, (job) => parseJob(renamed(job, names), 'The job'));
      await this.load();
      return undefined;
    } catch (error) {
      return messageOf(error).replace(/^The job: [^:]*: /, '');
    }
  }

  /** Deletes a job with its files. @returns what brings it back; undefined when it was not deleted */
  async remove(id: string): Promise<WholeJob | undefined> {
    let deleted: WholeJob | undefined;
    await this.guarded(async () => {
      deleted = await takeOut(id);
      await this.load();
      if (!deleted) throw gone();
    });
    return deleted;
  }

  /** Keeps a deleted job again, unless it was opened and kept anew meanwhile. */
  async bringBack(deleted: WholeJob): Promise<void> {
    await this.guarded(async () => {
      await addJob(deleted);
      await this.load();
    });
  }

  private async guarded(work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'job' } }));
    }
  }
}

function gone(): EsquisseError {
  return new EsquisseError('file-unreadable', 'This job is no longer kept in this browser.');
}

/** What a job and its setup are called; what is not given stays. */
export interface Names {
  name?: string;
  setup?: string;
}

/** A job with other names. */
export function renamed(job: Job, { name = job.name, setup = job.setup.name }: Names): Job {
  return { ...job, name: name.trim(), setup: { ...job.setup, name: setup.trim() } };
}
