import {
  CancelFlag,
  callHere,
  type Caller,
  type Crew,
  crewOf,
  type Job,
  type LeftoverFigures,
  leftoverFigures,
  type Body3,
  boxOf,
  EsquisseError,
  facesOf,
  filesOf,
  laidBoxes,
  type LaidBoxes,
  layMesh,
  meshesOfJob,
  meshFingerprint,
  type MeshReport,
  PlanSession,
  type Progress,
  type ReadMesh,
  readPart,
  release,
  type Release,
  type StepFigures,
  type Picked,
  pickAt,
  compareRevisions,
  type Followed,
  followFaces,
  workZeroPoint,
  type RevisionReport,
  type Vec3,
  type Surface,
  type Survey,
  surfaceOf,
  type Toolpath,
  type TriangleMesh,
  steelSoup,
  unlaid,
  volumeOf,
  writeStl,
  type Box,
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

/** A file as it was read: what the page tells of it. */
export interface FileView {
  file: string;
  report: MeshReport;
  bodies: Body3[];
  /** In the file's frame, mm. */
  box: Box;
  triangles: number;
}

/** The piece as it lies: what the page draws and tells of it. */
export interface PieceView {
  /** Changes with the part's mesh. */
  key: string;
  /** In the file's frame. */
  drawing: PartDrawing;
  /** In the laid frame, mm. */
  boxes: LaidBoxes;
  /** The fixtures' triangles, nine numbers each, in the frame of the work zero. */
  fixtures: Float64Array;
  triangles: number;
  faces: number;
  /** mm³. */
  volume: number;
  bodies: Body3[];
  /** What changed against the part that was there before, in the laid frame. */
  revision?: RevisionReport;
  /** Heights of steps that went with their faces. */
  followed: Followed[];
}

/** The state of a plan after something was worked out or changed. */
export interface PlanState {
  summaries: StepSummary[];
  /** Steps whose result holds for the job as it is. */
  fresh: string[];
  piece?: PieceView;
  /** The job as it was taken: with heights that follow a new revision. */
  job?: Job;
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
/** Cells of the steel that a file of it holds at most. */
const MOST_TERRACES = 120_000;

/** The meshes that are taken in, and what was worked out of them once. */
interface Taken {
  part: TriangleMesh;
  blank?: TriangleMesh;
  fixtures: TriangleMesh[];
  key: string;
  drawing?: PartDrawing;
  faces?: number;
}

/** The planner's thread: holds the plan's results and leads the helpers. Called from the page by messages. */
export class Planner {
  private readonly session = new PlanSession(pathCache);
  private helpers: Caller[] = [];
  private job?: Job;
  /** Files of the piece, and files that were read but not taken in yet. */
  private reads = new Map<string, ReadMesh>();
  private readonly pending = new Map<string, ReadMesh>();
  private taken?: Taken;
  private revision?: RevisionReport;
  private followed: Followed[] = [];
  private survey?: { key: string; mesh: TriangleMesh; survey: Promise<Survey>; surface?: Surface };
  private looking: { key: string; field: Float32Array } = { key: '', field: new Float32Array() };

  /** Takes the channels to the helpers. */
  meet(ports: MessagePort[]): void {
    this.helpers = ports.map((port): Caller => {
      const helper = wrap<HelperApi>(port);
      return (name, input, cancel) => helper.run(name, input as never, cancel) as never;
    });
  }

  /** Reads a part's file, or finds its mesh from an earlier visit. @throws EsquisseError with what is wrong with it */
  async read(fileName: string, bytes: Uint8Array, unit: 'mm' | 'in'): Promise<FileView> {
    const key = fileKey(fileName, bytes, unit);
    let read = await keptMesh(key);
    if (!read) {
      read = await readPart(fileName, bytes, unit, readStepFile);
      await keepMesh(key, read);
    }
    this.pending.set(fileName, read);
    return {
      file: fileName,
      report: read.report,
      bodies: read.bodies ?? [],
      box: boxOf(read.mesh),
      triangles: read.mesh.indices.length / 3,
    };
  }

  /**
   * Lays the piece on the machine as the job says; its files were read before.
   *
   * @throws what keeps it from being machined, as a sentence; the piece and job before then stay
   */
  prepare(job: Job): PlanState {
    if (!job.part) {
      this.job = job;
      this.taken = undefined;
      return this.state();
    }
    const before = { job: this.job, reads: this.reads, part: this.taken?.part, zero: this.zeroHeight() };
    const brought = filesOf(job).some(({ file }) => this.pending.has(file));
    this.reads = new Map(
      filesOf(job).flatMap(({ file }) => {
        const read = this.pending.get(file) ?? before.reads.get(file);
        return read ? [[file, read] as const] : [];
      }),
    );
    this.pending.clear();
    try {
      this.lay(job);
    } catch (error) {
      // a change that cannot be machined is told and mended; a file that does not fit leaves everything as it was
      if (brought) {
        this.reads = before.reads;
        if (before.job?.part) this.lay(before.job);
      }
      throw error;
    }
    const another = brought && before.part && before.job?.id === job.id && before.part !== this.taken?.part;
    if (another) {
      const report = compareRevisions(layMesh(before.part!, job.part.lay), layMesh(this.taken!.part, job.part.lay));
      // a part that shares few faces with the one before is another part
      this.revision = report.same + report.moved.length > report.gone.length ? report : undefined;
    }
    if (before.job?.id !== job.id) this.revision = undefined;
    this.job = job;
    if (another && this.revision) {
      const { job: moved, followed } = followFaces(job, this.revision.levels, before.zero, this.zeroHeight());
      this.followed = followed;
      this.job = moved;
    }
    return { ...this.state(), piece: this.pieceView(this.job), job: this.job };
  }

  /** The part looked over; worked out by a helper when first asked for after it was taken in or turned. */
  surveyed(): Promise<Survey> {
    const job = this.job;
    const taken = this.taken;
    if (!job?.part || !taken) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    const key = `${taken.key}${JSON.stringify(job.part.lay)}`;
    if (this.survey?.key !== key) {
      const mesh = layMesh(taken.part, job.part.lay);
      const survey = this.crew(new CancelFlag().cell)
        .all('survey', [{ mesh }])
        .then(([found]) => found!);
      this.survey = { key, mesh, survey };
    }
    return this.survey.survey;
  }

  /** What is meant by a place on a triangle of the part, in the laid frame; `reach` in mm. */
  async pick(triangle: number, point: Vec3, reach: number): Promise<Picked> {
    const { faceOf, holes } = await this.surveyed();
    const looked = this.survey!;
    looked.surface ??= surfaceOf(looked.mesh);
    return pickAt(looked.surface, faceOf, holes, triangle, point, reach);
  }

  /** Height of the work zero in the laid frame, mm. */
  private zeroHeight(): number {
    const lay = this.job?.part?.lay;
    if (!this.job || !lay || !this.taken) return 0;
    const { part, blank } = this.taken;
    return workZeroPoint(this.job, laidBoxes(layMesh(part, lay), blank && layMesh(blank, lay)))[2];
  }

  private lay(job: Job): void {
    const meshes = meshesOfJob(job, (file) => this.reads.get(file));
    const key = [meshes.part, meshes.blank, ...meshes.fixtures].map((m) => (m ? meshFingerprint(m) : '-')).join();
    this.session.prepare(job, meshes.part, key, meshes);
    if (this.taken?.key !== key) this.taken = { ...meshes, key };
  }

  private pieceView(job: Job): PieceView | undefined {
    const taken = this.taken;
    if (!taken || !job.part) return undefined;
    const { part, blank, key } = taken;
    taken.drawing ??= partDrawing(part);
    taken.faces ??= facesOf(surfaceOf(part)).count;
    const { lay } = job.part;
    return {
      key,
      drawing: taken.drawing,
      boxes: laidBoxes(layMesh(part, lay), blank && layMesh(blank, lay)),
      fixtures: this.session.heldBy?.triangles ?? new Float64Array(),
      triangles: part.indices.length / 3,
      faces: taken.faces,
      volume: Math.abs(volumeOf(part)),
      bodies: this.reads.get(job.part.file)?.bodies ?? [],
      revision: this.revision,
      followed: this.revision ? this.followed : [],
    };
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

  /** The steel at a moment as an STL file, in the frame of the part's file, so that it can be another job's blank. */
  steelFile(moment: Moment): Uint8Array {
    const map = this.mapAt(moment);
    const stride = Math.max(1, Math.ceil(Math.sqrt((map.nx * map.ny) / MOST_TERRACES)));
    const soup = steelSoup(map, stride);
    const { job, taken } = this;
    if (job?.part && taken) {
      const { lay } = job.part;
      const zero = workZeroPoint(job, laidBoxes(layMesh(taken.part, lay), taken.blank && layMesh(taken.blank, lay)));
      for (let i = 0; i < soup.length; i += 3) {
        const p = unlaid(lay, [soup[i]! + zero[0], soup[i + 1]! + zero[1], soup[i + 2]! + zero[2]]);
        for (let c = 0; c < 3; c++) soup[i + c] = p[c]!;
      }
    }
    return writeStl(soup);
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
