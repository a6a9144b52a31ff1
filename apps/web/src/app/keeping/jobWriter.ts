import { Injectable } from '@angular/core';
import type { Job } from '@esquisse/core';
import { type Remote, wrap } from 'comlink';
import { endOf } from '../engine/alive';
import { keepErrorsWhole } from '../engine/wire';
import type { KeepChange } from './database';
import { JobKeeping } from './jobKeeping';
import type { JobLook } from './records';

/**
 * Keeps jobs in a thread of its own, so that nothing that the page is busy with delays it. Where there is none, or it has
 * ended, the page keeps them itself.
 */
@Injectable({ providedIn: 'root' })
export class JobWriter {
  private readonly here = new JobKeeping();
  private away?: { readonly remote: Remote<JobKeeping>; readonly lost: Promise<never> } | undefined;

  constructor() {
    if (typeof Worker === 'undefined') return;
    keepErrorsWhole();
    const name = `esquisse keeping ${crypto.randomUUID()}`;
    let worker: Worker;
    try {
      worker = new Worker(new URL('./keeping.worker', import.meta.url), { type: 'module', name });
    } catch {
      // without a thread of its own the page keeps jobs itself
      return;
    }
    const lost = endOf(worker, name).then((): never => {
      this.away = undefined;
      throw new Error('The thread that keeps jobs has ended.');
    });
    lost.catch(() => undefined);
    this.away = { remote: wrap<JobKeeping>(worker), lost };
  }

  /** @returns hashes of files of the job that are not kept */
  keepJob(job: Job, change: KeepChange): Promise<string[]> {
    return this.by((keeping) => keeping.keepJob(job, change));
  }

  keepFiles(jobId: string, files: Readonly<Record<string, Uint8Array>>): Promise<void> {
    return this.by((keeping) => keeping.keepFiles(jobId, files));
  }

  noteSaved(id: string, saved: number): Promise<void> {
    return this.by((keeping) => keeping.noteSaved(id, saved));
  }

  noteLook(job: Job, look: JobLook): Promise<void> {
    return this.by((keeping) => keeping.noteLook(job, look));
  }

  private async by<T>(work: (keeping: JobKeeping | Remote<JobKeeping>) => Promise<T>): Promise<T> {
    const { away } = this;
    if (!away) return work(this.here);
    try {
      return await Promise.race([work(away.remote), away.lost]);
    } catch (error) {
      if (this.away) throw error;
      return work(this.here);
    }
  }
}
