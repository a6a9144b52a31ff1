import { Injectable } from '@angular/core';
import { CancelFlag, type Job, type Progress, type Release, type TriangleMesh } from '@esquisse/core';
import { proxy, type Remote, transfer, wrap } from 'comlink';
import type { DrawnSteel } from './display';
import type { PartDrawing } from './partDrawing';
import type { LeftoverView, Moment, Planner, PlanState, ReadPart } from './planner';

/** Helpers beside the planner: one a core, as the planner waits while they work. */
const HELPERS = Math.max(1, Math.min(8, navigator.hardwareConcurrency || 2));

/** The page's side of all heavy work: a planner in its worker, and its helpers in theirs. */
@Injectable({ providedIn: 'root' })
export class Engine {
  /** The part as it stands in its file. */
  private taken?: ReadPart;
  private readonly planner: Remote<Planner>;
  private cancelFlag = new CancelFlag();
  private readonly looking = new CancelFlag();

  constructor() {
    if (!globalThis.crossOriginIsolated)
      throw new Error('The page was served without the headers that shared memory needs. Start it with npm start.');
    this.planner = wrap<Planner>(new Worker(new URL('./planner.worker', import.meta.url), { type: 'module' }));
    const ports = Array.from({ length: HELPERS }, () => {
      const channel = new MessageChannel();
      const helper = new Worker(new URL('./helper.worker', import.meta.url), { type: 'module' });
      helper.postMessage({ port: channel.port1 }, [channel.port1]);
      return channel.port2;
    });
    void this.planner.meet(transfer(ports, ports));
  }

  /** Reads a part's file. @throws EsquisseError with what is wrong with it */
  read(fileName: string, bytes: Uint8Array, unit: 'mm' | 'in'): Promise<ReadPart> {
    return this.planner.read(fileName, bytes, unit);
  }

  get part(): TriangleMesh | undefined {
    return this.taken?.mesh;
  }

  get drawing(): PartDrawing | undefined {
    return this.taken?.drawing;
  }

  /** Lays a part on the machine as the job says; when that fails, the part and job before stay. */
  async takePart(part: ReadPart | undefined, job: Job, before: Job | null): Promise<PlanState> {
    if (!part) {
      this.taken = undefined;
      return { summaries: [], fresh: [] };
    }
    await this.planner.takePart(part.mesh);
    try {
      const state = await this.planner.prepare(job);
      this.taken = part;
      return state;
    } catch (error) {
      if (this.taken && before) {
        await this.planner.takePart(this.taken.mesh);
        await this.planner.prepare(before);
      }
      throw error;
    }
  }

  prepare(job: Job): Promise<PlanState> {
    return this.planner.prepare(job);
  }

  update(job: Job): Promise<PlanState> {
    return this.planner.update(job);
  }

  workOut(job: Job, last: number, onProgress: (p: Progress) => void): Promise<PlanState> {
    this.cancelFlag = new CancelFlag();
    return this.planner.workOut(job, last, this.cancelFlag.cell, proxy(onProgress));
  }

  release(job: Job): Promise<Release> {
    this.cancelFlag = new CancelFlag();
    return this.planner.release(job, this.cancelFlag.cell);
  }

  cancel(): void {
    this.cancelFlag.cancel();
  }

  steel(moment: Moment): Promise<DrawnSteel> {
    return this.planner.steel(moment);
  }

  leftover(moment: Moment): Promise<LeftoverView> {
    return this.planner.leftover(moment, this.looking.cell);
  }
}
