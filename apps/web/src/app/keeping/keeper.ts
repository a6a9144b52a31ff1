import { computed, inject, Injectable, signal } from '@angular/core';
import type { Job } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { type KeepChange, storageError } from './database';
import { JobWriter } from './jobWriter';
import type { JobLook } from './records';

/**
 * Keeps the open job in the browser after every change. When that fails it is told at once, work goes on,
 * and it is tried again with the next change.
 */
@Injectable({ providedIn: 'root' })
export class Keeper {
  private readonly store = inject(Store);
  private readonly writer = inject(JobWriter);
  /** Why the last change is not kept; empty when it is. */
  readonly trouble = signal('');
  /**
   * What the browser keeps of the open job is not sure to stay: it failed to write during this visit, after which a
   * browser may clear its whole database when it is started next, and the job was changed since it was last saved to a file.
   */
  readonly isDoubtful = computed(() => this.hasFailed() && this.changed() > (this.saved() ?? 0));
  /** When the open job was last saved to a file, ms since 1970; undefined for never. */
  readonly saved = signal<number | undefined>(undefined);
  /** Whether the browser has promised not to give kept jobs up when it wants room. */
  readonly isPersistent = signal<boolean | undefined>(undefined);
  /** What a file of the open job holds, by its hash. */
  fileOf: (hash: string) => Uint8Array | undefined = () => undefined;
  private last: Promise<unknown> = Promise.resolve();
  /** Whether something could not be kept during this visit. */
  private readonly hasFailed = signal(false);
  /** When the job was last given to be kept, ms since 1970; 0 for never. */
  private readonly changed = signal(0);
  private asked = false;

  /** Keeps a job as it is. @returns whether it is kept */
  keep(job: Job, change: KeepChange = {}): Promise<boolean> {
    const wasDoubtful = this.isDoubtful();
    this.changed.set(Date.now());
    const work = this.keepWhole(job, change);
    this.last = Promise.all([this.last, work.catch(() => undefined)]);
    return work.then(
      () => {
        const wasTroubled = this.trouble() !== '';
        this.trouble.set('');
        if (wasTroubled || (this.isDoubtful() && !wasDoubtful)) this.tellDoubt();
        void this.askToPersist();
        return true;
      },
      (error: unknown) => {
        const { message } = storageError(error);
        const isNews = this.trouble() !== message;
        this.trouble.set(message);
        this.hasFailed.set(true);
        if (isNews) this.tell();
        return false;
      },
    );
  }

  /** Keeps a job, with those of its files too that the browser has given up meanwhile. */
  private async keepWhole(job: Job, change: KeepChange): Promise<void> {
    const lacking = await this.writer.keepJob(job, change);
    const files = Object.fromEntries(
      lacking.flatMap((hash) => {
        const bytes = this.fileOf(hash);
        return bytes ? [[hash, bytes] as const] : [];
      }),
    );
    if (Object.keys(files).length > 0) await this.writer.keepFiles(job.id, files);
  }

  /** Resolves once everything that was to be kept is, or could not be. */
  async settled(): Promise<void> {
    await this.last;
  }

  /** Notes that the open job was saved to a file just now. */
  async noteSaved(id: string): Promise<void> {
    const now = Date.now();
    this.saved.set(now);
    await this.writer.noteSaved(id, now).catch(() => undefined);
  }

  /** Notes what the open job looks like, once it is kept. */
  async noteLook(job: Job, look: JobLook): Promise<void> {
    await this.last;
    await this.writer.noteLook(job, look).catch(() => undefined);
  }

  /** Tells that the job is kept again, but not surely. */
  private tellDoubt(): void {
    // what went wrong in the program itself stays in sight
    if (this.store.selectSignal(planFeature.selectTrouble)()?.isUnexpected) return;
    this.store.dispatch(
      PlanActions.failed({
        trouble: {
          message:
            'The browser keeps the job again. What failed to be written may still cost it what it keeps when it is started next: save the job to a file now.',
          place: 'job',
        },
      }),
    );
  }

  /** Tells why the last change is not kept, if it is not. */
  tell(): void {
    if (!this.trouble()) return;
    const message = `${this.trouble()} Work goes on, but only a file keeps it: save the job to a file before you close this tab.`;
    this.store.dispatch(PlanActions.failed({ trouble: { message, place: 'job', isLasting: true } }));
  }

  /** Asks the browser once not to give up what is kept. */
  private async askToPersist(): Promise<void> {
    if (this.asked) return;
    this.asked = true;
    try {
      this.isPersistent.set((await navigator.storage.persisted()) || (await navigator.storage.persist()));
    } catch {
      this.isPersistent.set(false);
    }
  }
}
