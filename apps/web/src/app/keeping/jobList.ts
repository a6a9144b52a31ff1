import { inject, Injectable, signal } from '@angular/core';
import { EsquisseError, type Job, messageOf, parseJob } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { PlanActions } from '../state/plan.reducer';
import { forgetJob, keptFiles, keptJob, keptJobs, putBack } from './database';
import { Keeper } from './keeper';
import { freeName, newId } from './names';
import type { KeptFile, KeptJob } from './records';

/** A job that was deleted, with its files: enough to bring it back. */
export interface Deleted {
  readonly kept: KeptJob;
  readonly files: readonly KeptFile[];
}

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
      const { kept, files } = await this.whole(id);
      const job = { ...kept.job, id: newId(kept.job.id), name: freeName(kept.job, await keptJobs()) };
      const { look, isLookOfNow } = kept;
      await putBack({ id: job.id, job, changed: Date.now(), look, isLookOfNow }, files);
      await this.load();
    });
  }

  /** Gives a job that is not open other names. @returns why not, or undefined */
  async rename(id: string, name: string, setup: string): Promise<string | undefined> {
    try {
      const { kept } = await this.whole(id);
      const job = parseJob(renamed(kept.job, name, setup), 'The job');
      await putBack({ ...kept, job, changed: Date.now(), demo: undefined }, []);
      await this.load();
      return undefined;
    } catch (error) {
      return messageOf(error).replace(/^The job: [^:]*: /, '');
    }
  }

  /** Deletes a job with its files. @returns what brings it back; undefined when it was not deleted */
  async remove(id: string): Promise<Deleted | undefined> {
    let deleted: Deleted | undefined;
    await this.guarded(async () => {
      const whole = await this.whole(id);
      await forgetJob(id);
      deleted = whole;
      await this.load();
    });
    return deleted;
  }

  async bringBack({ kept, files }: Deleted): Promise<void> {
    await this.guarded(async () => {
      // it may have been opened and kept anew meanwhile
      if (!(await keptJob(kept.id))) await putBack(kept, files);
      await this.load();
    });
  }

  private async whole(id: string): Promise<Deleted> {
    // the open job's last change may still be under way
    await this.keeper.settled();
    const [kept, files] = await Promise.all([keptJob(id), keptFiles(id)]);
    if (!kept) throw new EsquisseError('file-unreadable', 'This job is no longer kept in this browser.');
    return { kept, files };
  }

  private async guarded(work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'job' } }));
    }
  }
}

/** A job with other names. */
export function renamed(job: Job, name: string, setup: string): Job {
  return { ...job, name: name.trim(), setup: { ...job.setup, name: setup.trim() } };
}
