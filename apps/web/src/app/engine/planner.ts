import {
  CancelFlag,
  callHere,
  type Caller,
  type Crew,
  crewOf,
  type Job,
  type LeftoverFigures,
  leftoverFigures,
  messageOf,
  type Body3,
  boxOf,
  EsquisseError,
  facesOf,
  laidBoxes,
  type LaidBoxes,
  layMesh,
  type MeshReport,
  PlanSession,
  type Progress,
  readPart,
  release,
  type Release,
  type StepFigures,
  type Picked,
  pickAt,
  compareRevisions,
  type Followed,
  followFaces,
  type FollowedOutline,
  followOutlines,
  workZeroPoint,
  formatOf,
  outlinesUnder,
  type Point2,
  type CutterRow,
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
  writeThreeMf,
  type Box,
  type RestRegion,
} from '@esquisse/core';
import { type Remote, wrap } from 'comlink';
import { type DrawnSteel, drawn, histogram } from './display';
import type { HelperApi } from './helper.worker';
import { fileKey, keepMesh, keptMesh } from './meshCache';
import { PieceFiles, type PieceMeshes } from './pieceFiles';
import { type PartDrawing, partDrawing } from './partDrawing';
import { pathCache } from './pathCache';
import type { ReaderApi } from './reader.worker';
import { readStepFile, stopStepReader } from './stepReader';

/** What the page shows of a worked-out step. The path lies in shared memory. */
export interface StepSummary {
  stepId: string;
  figures: StepFigures;
  path: Toolpath;
  times: Float64Array;
}

/** A file as it was read: what the page tells of it. */
export interface FileView {
  /** By which it is taken in. */
  ticket: number;
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
  /** Of the body that is the blank, mm³. */
  blankVolume?: number;
  bodies: Body3[];
  /** What was put right in the part's file when it was read. */
  report: MeshReport;
  /** What changed against the part that was there before, in the laid frame. */
  revision?: RevisionReport;
  /** Heights of steps that went with their faces. */
  followed: Followed[];
  /** Their limits in plan that went with theirs, or could not. */
  outlines: FollowedOutline[];
}

/** The state of a plan after something was worked out or changed. */
export interface PlanState {
  summaries: StepSummary[];
  /** Steps whose result holds for the job as it is. */
  fresh: string[];
  piece?: PieceView;
  /** The job as it was taken: with heights that follow a new revision. */
  job?: Job;
  /** What keeps the piece from being machined as it is, as a sentence. */
  problem?: string;
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

/** Where a step would cut: area (mm²) and volume (mm³) above the allowance, and the steel with 1 where it lies. */
export interface RegionView {
  area: number;
  volume: number;
  threshold: number;
  stairs?: RestRegion['stairs'];
  steel: DrawnSteel;
}

const BINS = 12;
/** Cells of the steel that a file of it holds at most. */
const MOST_TERRACES = 120_000;

/** The planner's thread: holds the plan's results and leads the helpers. Called from the page by messages. */
export class Planner {
  private readonly session = new PlanSession(pathCache);
  private helpers: Caller[] = [];
  private reader?: Remote<ReaderApi>;
  private job?: Job;
  /** Job whose piece is laid. */
  private laidJob?: string;
  private readonly files = new PieceFiles();
  private piece?: PieceMeshes;
  private revision?: { report: RevisionReport; followed: Followed[]; outlines: FollowedOutline[] };
  private survey?: { key: string; mesh: TriangleMesh; survey: Promise<Survey>; surface?: Surface };
  private looking: { key: string; field: Float32Array } = { key: '', field: new Float32Array() };

  /** Takes the channels to the helpers. */
  meet(ports: MessagePort[]): void {
    this.helpers = ports.map((port): Caller => {
      const helper = wrap<HelperApi>(port);
      return (name, input, cancel) => helper.run(name, input as never, cancel) as never;
    });
  }

  /** Takes the channel to what reads mesh files. */
  meetReader(port: MessagePort): void {
    this.reader = wrap<ReaderApi>(port);
  }

  /** Reads a part's file, or finds its mesh from an earlier visit. @throws EsquisseError with what is wrong with it */
  async read(fileName: string, bytes: Uint8Array, unit: 'mm' | 'in'): Promise<FileView> {
    const key = fileKey(fileName, bytes, unit);
    let read = await keptMesh(key);
    if (!read) {
      try {
        const isStep = formatOf(fileName).id === 'step';
        read = await (isStep
          ? readPart(fileName, bytes, unit, readStepFile)
          : this.reader!.read(fileName, bytes, unit));
      } catch (error) {
        this.files.refuse(fileName, messageOf(error));
        throw error;
      }
      await keepMesh(key, read);
    }
    return {
      ticket: this.files.wait(fileName, read),
      file: fileName,
      report: read.report,
      bodies: read.bodies ?? [],
      box: boxOf(read.mesh),
      triangles: read.mesh.indices.length / 3,
    };
  }

  /** Ends a reading that goes on in a worker of its own. */
  stopReading(): void {
    stopStepReader();
  }

  /**
   * Lays the piece on the machine as the job says. What keeps it from being machined is told with the state: the job is
   * taken all the same, so that it can be mended, and nothing is worked out until it is.
   *
   * @param tickets of files that were read for this
   */
  prepare(job: Job, tickets: readonly number[] = []): PlanState {
    const before = { id: this.job?.id, part: this.piece?.part, zero: this.zeroHeight() };
    if (before.id !== job.id) {
      this.revision = undefined;
      // steps of two jobs may have the same ids, and their files the same names
      this.session.results.clear();
      this.files.forget();
    }
    this.job = job;
    this.laidJob = job.id;
    this.piece = undefined;
    this.files.take(job, tickets);
    if (!job.part) return this.state();
    let problem: string | undefined;
    try {
      this.piece = this.files.meshes(job);
      this.session.piece.prepare(job, this.piece.part, this.piece.key, this.piece);
    } catch (error) {
      problem = messageOf(error);
      this.session.piece.refuse(problem);
    }
    if (tickets.length > 0 && before.id === job.id) this.compare(before.part, before.zero);
    return { ...this.state(), job: this.job, piece: this.pieceView(), ...(problem ? { problem } : {}) };
  }

  /** Tells what a new revision changed, and lets the heights of steps go with their faces. */
  private compare(before: TriangleMesh | undefined, zeroBefore: number): void {
    const job = this.job;
    const now = this.piece?.part;
    if (!job?.part || !before || !now || before === now) return;
    const { lay } = job.part;
    const [was, is] = [layMesh(before, lay), layMesh(now, lay)];
    const { report, pairs } = compareRevisions(was, is);
    // a part that shares few faces with the one before is another part
    if (report.same + report.moved.length <= report.gone.length) {
      this.revision = undefined;
      return;
    }
    const heights = followFaces(job, report.levels, zeroBefore, this.zeroHeight());
    const outlines = followOutlines(heights.job, was, is, pairs);
    this.revision = { report, followed: heights.followed, outlines: outlines.followed };
    this.job = outlines.job;
  }

  /** The part looked over; worked out by a helper when first asked for after it was taken in or turned. */
  surveyed(): Promise<Survey> {
    const job = this.job;
    const piece = this.piece;
    if (!job?.part || !piece) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    const key = `${piece.key}${JSON.stringify(job.part.lay)}`;
    if (this.survey?.key !== key) {
      const mesh = layMesh(piece.part, job.part.lay);
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

  /** Outlines in plan of what lies under triangles of the part, in the laid frame. */
  async outlines(triangles: readonly number[]): Promise<Point2[][]> {
    await this.surveyed();
    return outlinesUnder(this.survey!.mesh, triangles);
  }

  /** Height of the work zero in the laid frame, mm. */
  private zeroHeight(): number {
    const boxes = this.boxes();
    return this.job && boxes ? workZeroPoint(this.job, boxes)[2] : 0;
  }

  private pieceView(): PieceView | undefined {
    const { job, piece } = this;
    const file = job?.part && this.files.read(job.part.file);
    if (!piece || !file) return undefined;
    piece.drawing ??= partDrawing(piece.part);
    piece.faces ??= facesOf(surfaceOf(piece.part)).count;
    return {
      key: piece.key,
      drawing: piece.drawing,
      boxes: this.boxes()!,
      fixtures: this.session.piece.heldBy?.triangles ?? new Float64Array(),
      triangles: piece.part.indices.length / 3,
      faces: piece.faces,
      volume: Math.abs(volumeOf(piece.part)),
      ...(piece.blank ? { blankVolume: Math.abs(volumeOf(piece.blank)) } : {}),
      bodies: file.bodies ?? [],
      report: file.report,
      revision: this.revision?.report,
      followed: this.revision?.followed ?? [],
      outlines: this.revision?.outlines ?? [],
    };
  }

  private boxes(): LaidBoxes | undefined {
    const lay = this.job?.part?.lay;
    if (!lay || !this.piece) return undefined;
    const { part, blank } = this.piece;
    return laidBoxes(layMesh(part, lay), blank && layMesh(blank, lay));
  }

  /** Tells which steps are still fresh after the job changed. */
  update(job: Job): PlanState {
    this.job = job;
    return this.state();
  }

  /** Last step up to which every path is kept from an earlier visit; -1 for none. */
  keptThrough(job: Job): Promise<number> {
    this.refuseOther(job);
    return this.session.keptThrough(job);
  }

  /** Works out all steps up to `last` that are not fresh. */
  async workOut(job: Job, last: number, cancel: Int32Array, onProgress: (p: Progress) => void): Promise<PlanState> {
    this.refuseOther(job);
    this.job = job;
    await this.session.evaluate(job, this.crew(cancel), onProgress, last);
    return this.state();
  }

  /** The steel at a moment. */
  steel(moment: Moment): DrawnSteel {
    return drawn(this.mapAt(moment));
  }

  /** The steel at a moment as a mesh file, in the frame of the part's file, so that it can be another job's blank. */
  steelFile(moment: Moment, format: 'stl' | '3mf'): Uint8Array {
    const map = this.mapAt(moment);
    const stride = Math.max(1, Math.ceil(Math.sqrt((map.nx * map.ny) / MOST_TERRACES)));
    const soup = steelSoup(map, stride);
    const { job } = this;
    const boxes = this.boxes();
    if (job?.part && boxes) {
      const { lay } = job.part;
      const zero = workZeroPoint(job, boxes);
      for (let i = 0; i < soup.length; i += 3) {
        const p = unlaid(lay, [soup[i]! + zero[0], soup[i + 1]! + zero[1], soup[i + 2]! + zero[2]]);
        for (let c = 0; c < 3; c++) soup[i + c] = p[c]!;
      }
    }
    return format === 'stl' ? writeStl(soup) : writeThreeMf(soup);
  }

  async leftover(moment: Moment, cancel: Int32Array): Promise<LeftoverView> {
    const field = await this.fieldAt(moment, cancel);
    const figures = leftoverFigures(field);
    const high = Math.max(0.02, Math.min(figures.largest, figures.p99 * 1.15));
    const low = figures.gouge > 0 ? -Math.min(figures.gouge, high) : 0;
    return { steel: drawn(this.mapAt(moment), field), figures, low, high, bins: histogram(field, low, high, BINS) };
  }

  /** Where a step would cut, in the job as it is now. */
  async region(job: Job, stepId: string, cancel: Int32Array): Promise<RegionView> {
    this.refuseOther(job);
    const found = await this.session.regionOf(job, stepId, this.crew(cancel));
    if (!found) throw new EsquisseError('job-invalid', 'This kind of step does not look for a region.', stepId);
    const field = found.map.heights.map((h) => (h > -Infinity ? 1 : NaN));
    const { area, volume, threshold, stairs } = found;
    return { area, volume, threshold, stairs, steel: drawn(found.stock, field) };
  }

  nextCutters(
    job: Job,
    at: { index: number; allowance: number; threshold: number | null },
    cancel: Int32Array,
    tell: (rows: CutterRow[], isLast: boolean) => void,
  ): Promise<void> {
    this.refuseOther(job);
    return this.session.nextCutters(job, at.index, at.allowance, at.threshold, this.crew(cancel), tell);
  }

  /** The piece of one job is never cut by the steps of another, however their openings crossed. */
  private refuseOther(job: Job): void {
    if (job.id !== this.laidJob)
      throw new EsquisseError('job-invalid', 'The piece of another job lies on the machine; open this job again.');
  }

  release(job: Job, cancel: Int32Array): Promise<Release> {
    this.refuseOther(job);
    return release(job, this.session, this.crew(cancel));
  }

  private mapAt(moment: Moment) {
    return moment.stepId === null || !this.session.results.has(moment.stepId)
      ? this.session.piece.fullBlock
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
