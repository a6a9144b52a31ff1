import { Injectable } from '@angular/core';
import { Subject } from 'rxjs';

/** How long a tab that is asked for its job may take to give it up before it is taken, ms. */
const GIVES_WITHIN_MS = 3000;
/** How long a page that is left may hold its lock, ms. */
const GOES_WITHIN_MS = 300;

interface Wish {
  readonly give: string;
}

/** Sees to it that a job is changed in one tab only: whoever holds its lock (Web Locks). */
@Injectable({ providedIn: 'root' })
export class Tabs {
  /** The job that this tab held was taken over by another one. */
  readonly taken = new Subject<string>();
  /** Done before a job is given up: what is still to be kept. */
  beforeGiving: () => Promise<void> = () => Promise.resolve();
  private held?: { readonly jobId: string; readonly letGo: () => void };
  private readonly wishes = new BroadcastChannel('esquisse jobs');

  constructor() {
    this.wishes.onmessage = ({ data }: MessageEvent<Wish>) => {
      if (data.give === this.held?.jobId) void this.give();
    };
  }

  /** Tries to be the tab that changes a job, and gives up the job that it held; false when another tab has it. */
  async hold(jobId: string): Promise<boolean> {
    if (this.held?.jobId === jobId) return true;
    this.letGo();
    if (await this.request(jobId, { ifAvailable: true })) return true;
    // a page that was loaded again may still be going away
    await new Promise((resolve) => setTimeout(resolve, GOES_WITHIN_MS));
    return this.request(jobId, { ifAvailable: true });
  }

  /** Becomes the tab that changes a job; the one that did is asked to keep what it has and give the job up. */
  async takeOver(jobId: string): Promise<void> {
    this.letGo();
    this.wishes.postMessage({ give: jobId } satisfies Wish);
    const given = this.request(jobId, { signal: AbortSignal.timeout(GIVES_WITHIN_MS) });
    if (!(await given.catch(() => false))) await this.request(jobId, { steal: true });
  }

  private async give(): Promise<void> {
    const { held } = this;
    if (!held) return;
    this.taken.next(held.jobId);
    await this.beforeGiving();
    this.letGo();
  }

  private letGo(): void {
    this.held?.letGo();
    this.held = undefined;
  }

  /** Resolves once the lock is held, or with false when it cannot be had. */
  private request(jobId: string, options: LockOptions): Promise<boolean> {
    return new Promise((resolve, reject) => {
      const work = (lock: Lock | null): Promise<void> | undefined => {
        if (!lock) {
          resolve(false);
          return undefined;
        }
        return new Promise((letGo) => {
          this.held = { jobId, letGo };
          resolve(true);
        });
      };
      navigator.locks.request(`esquisse job ${jobId}`, options, work).catch((error: unknown) => {
        // the lock was stolen, or was not had in time
        if (this.held?.jobId === jobId) {
          this.held = undefined;
          this.taken.next(jobId);
        } else reject(error instanceof Error ? error : new Error(String(error)));
      });
    });
  }
}
