import { Injectable, signal } from '@angular/core';
import {
  CancelFlag,
  type CutterRow,
  EsquisseError,
  type Job,
  type Picked,
  type Point2,
  type Progress,
  type Release,
  type Survey,
  type Vec3,
} from '@esquisse/core';
import { proxy, type Remote, transfer, wrap } from 'comlink';
import type { DrawnSteel } from './display';
import type { FileView, LeftoverView, Moment, PieceView, Planner, PlanState, RegionView } from './planner';

/** Helpers beside the planner: one a core, as the planner waits while they work. */
const HELPERS = Math.max(1, Math.min(8, navigator.hardwareConcurrency || 2));

/** The page's side of all heavy work: a planner in its worker, and its helpers in theirs. */
@Injectable({ providedIn: 'root' })
export class Engine {
  /** The piece as it lies on the machine. */
  readonly piece = signal<PieceView | undefined>(undefined);
  private readonly planner: Remote<Planner>;
  private reader: Worker;
  private cancelFlag = new CancelFlag();
  private stopReading?: () => void;
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
    this.reader = this.startReader();
  }

  /** What reads mesh files: in a worker of its own, which a reading that is called off ends with. */
  private startReader(): Worker {
    const channel = new MessageChannel();
    const reader = new Worker(new URL('./reader.worker', import.meta.url), { type: 'module' });
    reader.postMessage({ port: channel.port1 }, [channel.port1]);
    void this.planner.meetReader(transfer(channel.port2, [channel.port2]));
    return reader;
  }

  /** Reads a part's file. @throws EsquisseError with what is wrong with it */
  read(fileName: string, bytes: Uint8Array, unit: 'mm' | 'in'): Promise<FileView> {
    const stopped = new Promise<never>((_, reject) => {
      this.stopReading = () => {
        void this.planner.stopReading();
        this.reader.terminate();
        this.reader = this.startReader();
        reject(new EsquisseError('cancelled', 'Called off.'));
      };
    });
    return Promise.race([this.planner.read(fileName, bytes, unit), stopped]).finally(
      () => (this.stopReading = undefined),
    );
  }

  /**
   * Lays the piece on the machine as the job says; the state tells what keeps it from being machined.
   *
   * @param tickets of files that were read for this
   */
  async prepare(job: Job, tickets: readonly number[] = []): Promise<PlanState> {
    const state = await this.planner.prepare(job, tickets);
    this.piece.set(state.piece);
    return state;
  }

  /** What is meant by a place on a triangle of the part, in the laid frame. */
  pick(triangle: number, point: Vec3, reach: number): Promise<Picked> {
    return this.planner.pick(triangle, point, reach);
  }

  /** Outlines in plan of what lies under triangles of the part, in the laid frame, the largest first. */
  outlines(triangles: readonly number[]): Promise<Point2[][]> {
    return this.planner.outlines(triangles);
  }

  /** The part looked over. */
  survey(): Promise<Survey> {
    return this.planner.surveyed();
  }

  update(job: Job): Promise<PlanState> {
    return this.planner.update(job);
  }

  /** Last step up to which every path is kept from an earlier visit; -1 for none. */
  keptThrough(job: Job): Promise<number> {
    return this.planner.keptThrough(job);
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
    this.stopReading?.();
    this.cancelFlag.cancel();
  }

  steel(moment: Moment): Promise<DrawnSteel> {
    return this.planner.steel(moment);
  }

  /** The steel at a moment as a file, in the frame of the part's file. */
  steelFile(moment: Moment, format: 'stl' | '3mf'): Promise<Uint8Array> {
    return this.planner.steelFile(moment, format);
  }

  /** Where a step would cut. @throws EsquisseError when the step before is not worked out, or nothing is left */
  region(job: Job, stepId: string): Promise<RegionView> {
    return this.planner.region(job, stepId, this.looking.cell);
  }

  /** What each cutter would take of the steel at a place of the plan, told better and better. */
  nextCutters(
    job: Job,
    at: { index: number; allowance: number; threshold: number | null },
    tell: (rows: CutterRow[], isLast: boolean) => void,
  ): Promise<void> {
    return this.planner.nextCutters(job, at, this.looking.cell, proxy(tell));
  }

  leftover(moment: Moment): Promise<LeftoverView> {
    return this.planner.leftover(moment, this.looking.cell);
  }
}
