import {
  CancelFlag,
  callHere,
  type Caller,
  type Crew,
  crewOf,
  type Job,
  type LeftoverFigures,
  leftoverFigures,
  meshFingerprint,
  type MeshReport,
  PlanSession,
  type Progress,
  readPart,
  release,
  type Release,
  type StepFigures,
  type Toolpath,
  type TriangleMesh,
} from '@esquisse/core';
import { wrap } from 'comlink';
import { type DrawnSteel, drawn, histogram } from './display';
import type { HelperApi } from './helper.worker';
import { fileKey, keepMesh, keptMesh } from './meshCache';
import { type PartDrawing, partDrawing } from './partDrawing';
import { pathCache } from './pathCache';
import { readStepFile } from './stepReader';

/** What the page shows of a worked-out step. The path lies in shared memory. */
export interface StepSummary {
  stepId: string;
  figures: StepFigures;
  path: Toolpath;
  times: Float64Array;
}

/** A part as it was read, with what is needed to draw it. */
export interface ReadPart {
  mesh: TriangleMesh;
  report: MeshReport;
  drawing: PartDrawing;
}

/** The state of a plan after something was worked out or changed. */
export interface PlanState {
  summaries: StepSummary[];
  /** Steps whose result holds for the job as it is. */
  fresh: string[];
}

/** A place on the time line: after motion `motion` of a step, or the full block. */
export interface Moment {
  stepId: string | null;
  motion: number;
}

/** Leftover at a moment, for lens and legend; lengths in mm. */
export interface LeftoverView {
  steel: DrawnSteel;
  figures: LeftoverFigures;
  low: number;
  high: number;
  bins: number[];
}

const BINS = 12;

/** The planner's thread: holds the plan's results and leads the helpers. Called from the page by messages. */
export class Planner {
  private readonly session = new PlanSession(pathCache);
  private helpers: Caller[] = [];
  private job?: Job;
  private part?: { mesh: TriangleMesh; key: string };
  private looking: { key: string; field: Float32Array } = { key: '', field: new Float32Array() };

  /** Takes the channels to the helpers. */
  meet(ports: MessagePort[]): void {
    this.helpers = ports.map((port): Caller => {
      const helper = wrap<HelperApi>(port);
      return (name, input, cancel) => helper.run(name, input as never, cancel) as never;
    });
  }

  /** Reads a part's file, or finds its mesh from an earlier visit. @throws EsquisseError with what is wrong with it */
  async read(fileName: string, bytes: Uint8Array, unit: 'mm' | 'in'): Promise<ReadPart> {
    const key = fileKey(fileName, bytes, unit);
    let read = await keptMesh(key);
    if (!read) {
      read = await readPart(fileName, bytes, unit, readStepFile);
      await keepMesh(key, read);
    }
    return { ...read, drawing: partDrawing(read.mesh) };
  }

  /** Takes a part, as it stands in its file. */
  takePart(mesh: TriangleMesh): void {
    this.part = { mesh, key: meshFingerprint(mesh) };
  }

  /** Lays the part on the machine as the job says. @throws what keeps it from being machined, as a sentence */
  prepare(job: Job): PlanState {
    if (this.part) this.session.prepare(job, this.part.mesh, this.part.key);
    this.job = job;
    return this.state();
  }

  /** Tells which steps are still fresh after the job changed. */
  update(job: Job): PlanState {
    this.job = job;
    return this.state();
  }

  /** Works out all steps up to `last` that are not fresh. */
  async workOut(job: Job, last: number, cancel: Int32Array, onProgress: (p: Progress) => void): Promise<PlanState> {
    this.job = job;
    await this.session.evaluate(job, this.crew(cancel), onProgress, last);
    return this.state();
  }

  /** The steel at a moment. */
  steel(moment: Moment): DrawnSteel {
    return drawn(this.mapAt(moment));
  }

  async leftover(moment: Moment, cancel: Int32Array): Promise<LeftoverView> {
    const field = await this.fieldAt(moment, cancel);
    const figures = leftoverFigures(field);
    const high = Math.max(0.02, Math.min(figures.largest, figures.p99 * 1.15));
    const low = figures.gouge > 0 ? -Math.min(figures.gouge, high) : 0;
    return { steel: drawn(this.mapAt(moment), field), figures, low, high, bins: histogram(field, low, high, BINS) };
  }

  release(job: Job, cancel: Int32Array): Promise<Release> {
    return release(job, this.session, this.crew(cancel));
  }

  private mapAt(moment: Moment) {
    return moment.stepId === null || !this.session.results.has(moment.stepId)
      ? this.session.fullBlock
      : this.session.steelAt(moment.stepId, moment.motion);
  }

  private async fieldAt(moment: Moment, cancel: Int32Array): Promise<Float32Array> {
    const result = moment.stepId === null ? undefined : this.session.results.get(moment.stepId);
    if (!result) return this.session.leftoverOfBlock(this.crew(cancel));
    if (moment.motion >= result.path.x.length - 1) return result.leftover;
    const key = `${result.fingerprint}:${moment.motion}`;
    if (this.looking.key !== key) {
      const field = await this.session.leftoverOf(this.mapAt(moment), this.crew(cancel), {
        heights: result.after.heights,
        leftover: result.leftover,
      });
      this.looking = { key, field };
    }
    return this.looking.field;
  }

  private crew(cancel: Int32Array): Crew {
    return crewOf(this.helpers.length > 0 ? this.helpers : [callHere], new CancelFlag(cancel));
  }

  private state(): PlanState {
    const job = this.job;
    if (!job) return { summaries: [], fresh: [] };
    const summaries = job.steps.flatMap((step): StepSummary[] => {
      const result = this.session.results.get(step.id);
      return result ? [{ stepId: step.id, figures: result.figures, path: result.path, times: result.times }] : [];
    });
    return { summaries, fresh: job.steps.filter((_, i) => this.session.isFresh(job, i)).map((s) => s.id) };
  }
}
