import type { Job } from '@esquisse/core';
import { type KeepChange, keepFiles, keepJob, noteLook, noteSaved } from './database';
import type { JobLook } from './records';

interface Waiting {
  readonly job: Job;
  readonly change: KeepChange;
  readonly settle: { resolve: (lacking: string[]) => void; reject: (error: unknown) => void }[];
}

/**
 * Writes jobs one after another. Of a job that changes faster than it can be written the newest state is written, with all the
 * files that came with the states before it.
 */
export class JobKeeping {
  private waiting: Waiting[] = [];
  private isWriting = false;

  /** Resolves once this state of the job, or a newer one, is kept, with the hashes of its files that are not. */
  keepJob(job: Job, change: KeepChange): Promise<string[]> {
    return new Promise((resolve, reject) => {
      const before = this.waiting.find((w) => w.job.id === job.id);
      const files = { ...before?.change.files, ...change.files };
      const settle = [...(before?.settle ?? []), { resolve, reject }];
      this.waiting = this.waiting.filter((w) => w !== before);
      this.waiting.push({ job, change: { ...before?.change, ...change, files }, settle });
      if (!this.isWriting) void this.write();
    });
  }

  keepFiles(jobId: string, files: Readonly<Record<string, Uint8Array>>): Promise<void> {
    return keepFiles(jobId, files);
  }

  noteSaved(id: string, saved: number): Promise<void> {
    return noteSaved(id, saved);
  }

  noteLook(job: Job, look: JobLook): Promise<void> {
    return noteLook(job, look);
  }

  private async write(): Promise<void> {
    this.isWriting = true;
    for (let next = this.waiting.shift(); next; next = this.waiting.shift()) {
      const { job, change, settle } = next;
      try {
        const lacking = await keepJob(job, change);
        for (const { resolve } of settle) resolve(lacking);
      } catch (error) {
        for (const { reject } of settle) reject(error);
      }
    }
    this.isWriting = false;
  }
}
