import { inject, Injectable, signal } from '@angular/core';
import {
  AS_DRAWN,
  blockBox,
  boxOfPositions,
  readOutlines,
  type BodyRole,
  EsquisseError,
  filesOf,
  type Job,
  messageOf,
  openBundle,
  outlineBlank,
  packBundle,
  parseJob,
  parseJson,
  type Point2,
  type StepLimit,
  withBodies,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { JobActions, jobFeature } from '../state/job.reducer';
import { PlanActions } from '../state/plan.reducer';
import { saveFile } from '../shared/files';
import { forgetJob, keepJob, keptFile, keptJobs, type KeptJob } from './database';

/** Jobs of the demo, as they ship with the application. */
export const DEMO_JOBS = [
  { file: 'citrus-cavity', title: 'Citrus press, cavity insert' },
  { file: 'citrus-core', title: 'Citrus press, core insert' },
  { file: 'trowel-grip', title: 'Trowel grip, die half' },
  { file: 'corner-check', title: 'Corner check, square pocket' },
] as const;

/** Opens, saves and restores jobs. Whatever fails leaves the open job as it was. */
@Injectable({ providedIn: 'root' })
export class Jobs {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  /** Files wait for the job that is being brought back. */
  private restored: Promise<void> = Promise.resolve();
  /** Kept jobs, for the menu. */
  readonly kept = signal<KeptJob[]>([]);

  /** Brings back the job that was open last, or the first demo job. */
  restore(): Promise<void> {
    this.restored = this.guarded(async () => {
      const [last] = await keptJobs();
      if (last) await this.openKept(last.id);
      else await this.openDemo(DEMO_JOBS[0].file);
    });
    return this.restored;
  }

  async listKept(): Promise<void> {
    this.kept.set(await keptJobs());
  }

  openDemo(file: string): Promise<void> {
    return this.guarded(async () => {
      const job = parseJob(parseJson(await (await fetched(`/demo/jobs/${file}.json`)).text(), file), file);
      const part = job.part!;
      const name = part.file.split('/').pop()!;
      const bytes = new Uint8Array(await (await fetched(`/demo/parts/${name}`)).arrayBuffer());
      await this.take({ ...job, part: { ...part, file: name } }, { [name]: bytes });
    });
  }

  openKept(id: string): Promise<void> {
    return this.guarded(async () => {
      const found = (await keptJobs()).find((k) => k.id === id);
      if (!found) throw new EsquisseError('file-unreadable', 'This job is no longer kept in this browser.');
      const job = parseJob(found.job, `"${found.job.name}"`);
      const files: Record<string, Uint8Array> = {};
      for (const { file } of filesOf(job)) {
        const bytes = await keptFile(id, file);
        if (bytes) files[file] = bytes;
      }
      await this.take(job, files, true);
    });
  }

  /** Opens a whole job from its zip file. */
  openFile(file: File): Promise<void> {
    return this.guarded(async () => {
      const { job, files } = openBundle(new Uint8Array(await file.arrayBuffer()), file.name);
      await this.take(job, files);
    });
  }

  /** Saves the whole job, with its part, to one zip file. */
  saveFile(): Promise<void> {
    return this.guarded(async () => {
      const job = this.job();
      if (!job) return;
      const files: Record<string, Uint8Array> = {};
      for (const { file } of filesOf(job)) {
        const bytes = await keptFile(job.id, file);
        if (!bytes) throw new EsquisseError('file-unreadable', `The file "${file}" is not kept in this browser.`);
        files[file] = bytes;
      }
      saveFile(`${job.name} - ${job.setup.name}.esquisse.zip`, packBundle({ job, files }), 'application/zip');
    });
  }

  async forget(id: string): Promise<void> {
    await forgetJob(id);
    await this.listKept();
  }

  /** Takes a part's file into the open job, in place of the one before. */
  importPart(file: File, unit: 'mm' | 'in'): Promise<void> {
    return this.guarded(async () => {
      await this.restored;
      if (!this.job()) throw new EsquisseError('job-invalid', 'Open a job first, from the menu at the upper left.');
      const read = await this.read(file, unit);
      await this.takeIn(file.name, read, (job) => {
        const same = job.part?.file === file.name;
        const roles = same ? job.part!.roles : {};
        return { ...job, part: { file: file.name, unit, lay: job.part?.lay ?? AS_DRAWN, roles } };
      });
    });
  }

  /** Takes a further file into the open job: a blank or a fixture in the frame of the part. */
  importOther(file: File, unit: 'mm' | 'in', role: BodyRole): Promise<void> {
    return this.guarded(async () => {
      await this.restored;
      const job = this.job();
      if (!job?.part) throw new EsquisseError('job-invalid', 'Bring in the part first.', 'part');
      if (file.name === job.part.file)
        throw new EsquisseError('job-invalid', `"${file.name}" is the part's own file; give its bodies their roles.`);
      const read = await this.read(file, unit);
      const other = { file: file.name, unit, role };
      await this.takeIn(file.name, read, (now) =>
        withBodies(now, () => ({ ...now, others: [...now.others.filter((o) => o.file !== file.name), other] })),
      );
    });
  }

  /** Takes a file that was read into the open job, with whatever was changed while it was read and laid. */
  private async takeIn(
    file: string,
    { bytes, ticket }: { bytes: Uint8Array; ticket: number },
    change: (job: Job) => Job,
  ): Promise<void> {
    const begun = this.job();
    for (let job = begun; job && job.id === begun?.id; job = this.job()) {
      if (await this.open(change(job), { [file]: bytes }, [ticket], () => this.job() === job)) return;
    }
    throw new EsquisseError('job-invalid', `Another job was opened: "${file}" was not taken in.`);
  }

  /** Reads the open job's part again, in another unit. */
  rereadPart(unit: 'mm' | 'in'): Promise<void> {
    return this.guarded(async () => {
      const job = this.job();
      const bytes = job?.part && (await keptFile(job.id, job.part.file));
      if (job?.part && bytes) await this.importPart(new File([bytes as BlobPart], job.part.file), unit);
    });
  }

  /** Makes the largest outline of a drawing the blank, its middle under the part's. */
  importOutline(file: File): Promise<void> {
    return this.guarded(async () => {
      const job = this.job();
      const part = this.engine.piece()?.boxes.part;
      if (!job || !part) throw new EsquisseError('job-invalid', 'Bring in the part first.', 'part');
      const points = this.laidOutline(file.name, await file.text());
      const block = blockBox(job, this.engine.piece()!.boxes);
      const next = parseJob({ ...job, blank: outlineBlank(file.name, points, part, block) }, 'The job');
      this.store.dispatch(JobActions.changed({ job: next }));
    });
  }

  /** Holds a step within the outline of a drawing, whose middle is laid on the part's. */
  importLimit(file: File, stepId: string): Promise<void> {
    return this.guarded(async () => {
      const job = this.job();
      if (!job) return;
      const points = this.laidOutline(file.name, await file.text());
      const limit: StepLimit = { kind: 'within', source: file.name, points, side: 'on', offset: 0 };
      const steps = job.steps.map((s) => (s.id === stepId ? { ...s, limits: [...s.limits, limit] } : s));
      this.store.dispatch(JobActions.changed({ job: parseJob({ ...job, steps }, 'The job') }));
    });
  }

  /** The largest outline of a drawing, its middle laid on the part's. */
  private laidOutline(fileName: string, text: string): Point2[] {
    const part = this.engine.piece()?.boxes.part;
    if (!part) throw new EsquisseError('job-invalid', 'Bring in the part first.', 'part');
    const [outline] = readOutlines(fileName, text);
    const box = boxOfPositions(outline!.points.flatMap(([x, y]) => [x, y, 0]));
    const dx = (part.minX + part.maxX - box.minX - box.maxX) / 2;
    const dy = (part.minY + part.maxY - box.minY - box.maxY) / 2;
    return outline!.points.map(([x, y]): Point2 => [x + dx, y + dy]);
  }

  private async read(file: File, unit: 'mm' | 'in'): Promise<{ bytes: Uint8Array; ticket: number }> {
    this.tell(`reading ${file.name}`);
    const bytes = new Uint8Array(await file.arrayBuffer());
    return { bytes, ticket: (await this.engine.read(file.name, bytes, unit)).ticket };
  }

  /**
   * Opens a job with all its files.
   *
   * @param anyway whether it opens without a file that cannot be read, so that another can be brought in: it is this
   * person's own work
   */
  private async take(job: Job, files: Record<string, Uint8Array>, anyway = false): Promise<void> {
    const tickets: number[] = [];
    let unread: unknown;
    for (const { file, unit } of filesOf(job)) {
      const bytes = files[file];
      try {
        if (!bytes) throw new EsquisseError('file-unreadable', `The file "${file}" is missing.`);
        this.tell(`reading ${file}`);
        tickets.push((await this.engine.read(file, bytes, unit)).ticket);
      } catch (error) {
        if (!anyway || isCancelled(error)) throw error;
        unread ??= error;
      }
    }
    try {
      await this.open(job, files, tickets);
    } catch (error) {
      throw unread ?? error;
    }
    if (unread) throw unread;
  }

  /**
   * Lays the job's piece and opens it; taking back would need the meshes of earlier files. A job that cannot be machined as
   * it is opens all the same, with the reason, so that it can be mended.
   *
   * @param holds whether the job that it was made of is still the one that is open
   * @returns whether it was opened
   */
  private async open(
    job: Job,
    files: Record<string, Uint8Array>,
    tickets: readonly number[],
    holds: () => boolean = () => true,
  ): Promise<boolean> {
    const checked = parseJob(job, 'The job');
    const state = await this.engine.prepare(checked, tickets);
    const taken = state.job ?? checked;
    if (!holds()) return false;
    await keepJob(taken, files);
    if (!holds()) return false;
    this.store.dispatch(JobActions.opened({ job: taken }));
    if (!taken.part) return true;
    this.store.dispatch(PlanActions.partTakenIn({ state }));
    if (state.problem) throw new EsquisseError('job-invalid', state.problem);
    return true;
  }

  private tell(what: string): void {
    this.store.dispatch(PlanActions.workBegan({ work: { what, share: 0, stepId: null } }));
  }

  private async guarded(work: () => Promise<void>): Promise<void> {
    try {
      await work();
      this.store.dispatch(PlanActions.workEnded());
    } catch (error) {
      if (isCancelled(error)) {
        this.store.dispatch(PlanActions.workEnded());
        return;
      }
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'job' } }));
    }
  }
}

function isCancelled(error: unknown): boolean {
  return (error as { code?: string }).code === 'cancelled';
}

async function fetched(url: string): Promise<Response> {
  const response = await fetch(url);
  if (!response.ok) throw new EsquisseError('file-unreadable', `${url} cannot be fetched (${response.status}).`);
  return response;
}
