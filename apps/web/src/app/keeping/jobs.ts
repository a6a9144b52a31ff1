import { inject, Injectable, signal } from '@angular/core';
import {
  EsquisseError,
  type Job,
  messageOf,
  openBundle,
  packBundle,
  parseJob,
  parseJson,
  blankProblems,
  boxOf,
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
] as const;

/** Opens, saves and restores jobs. Whatever fails leaves the open job as it was. */
@Injectable({ providedIn: 'root' })
export class Jobs {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  /** Kept jobs, for the menu. */
  readonly kept = signal<KeptJob[]>([]);

  /** Brings back the job that was open last, or the first demo job. */
  async restore(): Promise<void> {
    await this.guarded(async () => {
      const [last] = await keptJobs();
      if (last) await this.openKept(last.id);
      else await this.openDemo(DEMO_JOBS[0].file);
    });
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
      const bytes = job.part ? await keptFile(id, job.part.file) : undefined;
      await this.take(job, job.part && bytes ? { [job.part.file]: bytes } : {});
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
      if (job.part) {
        const bytes = await keptFile(job.id, job.part.file);
        if (!bytes)
          throw new EsquisseError('file-unreadable', `The part's file "${job.part.file}" is not kept in this browser.`);
        files[job.part.file] = bytes;
      }
      saveFile(`${job.name} - ${job.setup.name}.esquisse.zip`, packBundle({ job, files }), 'application/zip');
    });
  }

  async forget(id: string): Promise<void> {
    await forgetJob(id);
    await this.listKept();
  }

  /** Takes a part's file into the open job. */
  importPart(file: File, unit: 'mm' | 'in'): Promise<void> {
    return this.guarded(async () => {
      const job = this.job();
      if (!job) return;
      this.tell(`reading ${file.name}`);
      const bytes = new Uint8Array(await file.arrayBuffer());
      const part = await this.engine.read(file.name, bytes, unit);
      const next = fitting({ ...job, part: { file: file.name, unit } }, boxOf(part.mesh));
      const state = await this.engine.takePart(part, next, job);
      await keepJob(next, { [file.name]: bytes });
      // another part is another beginning: taking back would need the earlier part's mesh
      this.store.dispatch(JobActions.opened({ job: next }));
      this.store.dispatch(PlanActions.partTakenIn({ state }));
    });
  }

  private async take(job: Job, files: Record<string, Uint8Array>): Promise<void> {
    const bytes = job.part && files[job.part.file];
    if (job.part && !bytes)
      throw new EsquisseError('file-unreadable', `The part's file "${job.part.file}" is missing.`);
    this.tell(job.part ? `reading ${job.part.file}` : 'opening');
    const read = job.part && bytes ? await this.engine.read(job.part.file, bytes, job.part.unit) : undefined;
    const state = await this.engine.takePart(read, job, this.job());
    await keepJob(job, files);
    this.store.dispatch(JobActions.opened({ job }));
    if (read) this.store.dispatch(PlanActions.partTakenIn({ state }));
  }

  private tell(what: string): void {
    this.store.dispatch(PlanActions.workBegan({ work: { what, share: 0, stepId: null } }));
  }

  private async guarded(work: () => Promise<void>): Promise<void> {
    try {
      await work();
      this.store.dispatch(PlanActions.workEnded());
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'job' } }));
    }
  }
}

/** A job whose fixed block no longer holds its part gets an offset block instead. */
function fitting(job: Job, part: ReturnType<typeof boxOf>): Job {
  if (blankProblems(job, part).length === 0) return job;
  return { ...job, blank: { kind: 'offset', minX: 0, maxX: 0, minY: 0, maxY: 0, minZ: 0, maxZ: 1 } };
}

async function fetched(url: string): Promise<Response> {
  const response = await fetch(url);
  if (!response.ok) throw new EsquisseError('file-unreadable', `${url} cannot be fetched (${response.status}).`);
  return response;
}
