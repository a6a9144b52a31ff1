import {
  callHere,
  type Caller,
  CancelFlag,
  compareRevisions,
  compareScaled,
  type Crew,
  crewOf,
  type CutterRow,
  EsquisseError,
  type ExpectedStep,
  type Finishers,
  facesOf,
  fileHash,
  followFacePicks,
  followBound,
  followFaces,
  type FollowedOutline,
  type Followed,
  type FollowedBound,
  followOutlines,
  type Job,
  type Rivals,
  laidBoxes,
  type LaidBoxes,
  type Lying,
  layMesh,
  MovedPlaces,
  meshesOfJob,
  messageOf,
  type PathCache,
  Piece,
  type Progress,
  type ReadMesh,
  readPart,
  release,
  type Release,
  remoteCaller,
  type RevisionReport,
  Session,
  type StepReader,
  type StepResult,
  surfaceOf,
  type TriangleMesh,
  unlaid,
  type Vec3,
  volumeOf,
  workZeroPoint,
  boxOf,
  formatOf,
  type LengthUnit,
  type ModelFile,
} from '@esquisse/core';
import { type Remote, wrap } from 'comlink';
import type { HelperApi } from './helper.worker';
import type { MeshStore } from './meshCache';
import { partDrawing } from './partDrawing';
import { PartLook } from './partLook';
import { type DrawnMeshes, PieceFiles } from './pieceFiles';
import type { ReaderApi } from './reader.worker';
import { SteelLook } from './steelLook';
import type { FileView, PieceView, ToldJob, ToldState, Watched } from './views';

/** What the planner needs of the world: what is kept between visits, and how STEP files are read. */
export interface Outside {
  readonly paths: PathCache;
  readonly meshes: MeshStore;
  readonly readStep: StepReader;
  readonly stopStep: () => void;
}

/** A part before and after a new revision, and what followed it. */
interface Revision {
  readonly part: TriangleMesh;
  /** What a new revision of its file changed. */
  readonly report?: RevisionReport;
  readonly followed: readonly (Followed | FollowedBound)[];
  readonly outlines: readonly FollowedOutline[];
}

/** The planner's thread: holds a job's session and leads the helpers. Called from the page by messages. */
export class Planner {
  private readonly session: Session;
  private readonly files = new PieceFiles();
  private callers: readonly Caller[] = [callHere];
  private reader?: Remote<ReaderApi>;
  private job?: Job;
  private revisionNumber = 0;
  private serial = 0;
  /** Names of results, by which the page knows again what it was told before. */
  private readonly names = new WeakMap<StepResult, string>();
  private meshes?: DrawnMeshes | undefined;
  private piece?: Piece | undefined;
  private revision?: Revision | undefined;
  /** What is asked of the part, and of the steel. */
  readonly look = new PartLook(
    () => this.theMeshes(),
    (cancel) => this.crew(cancel),
  );
  readonly steel: SteelLook;

  constructor(private readonly outside: Outside) {
    this.session = new Session(outside.paths);
    this.steel = new SteelLook(
      this.session,
      (cancel) => this.crew(cancel),
      () => this.fromZero(),
    );
  }

  /** Takes the channels to the helpers. */
  meet(ports: MessagePort[]): void {
    this.workWith(
      ports.map((port) => {
        const helper = wrap<HelperApi>(port);
        return remoteCaller((name, input, cancel) => helper.run(name, input, cancel));
      }),
    );
  }

  /** Those who do the heavy work. */
  workWith(callers: readonly Caller[]): void {
    this.callers = callers;
  }

  /** Takes the channel to what reads mesh files. */
  meetReader(port: MessagePort): void {
    this.reader = wrap<ReaderApi>(port);
  }

  /** Reads a part's file, or finds its mesh from an earlier visit. @throws EsquisseError with what is wrong with it */
  async read(fileName: string, bytes: Uint8Array, unit: LengthUnit): Promise<FileView> {
    const hash = fileHash(fileName, bytes);
    const file = { file: fileName, hash, unit };
    try {
      const read = this.files.read(file) ?? (await this.readKept(fileName, bytes, unit, hash));
      this.files.add(file, read);
      const { report, bodies, mesh } = read;
      return {
        file: fileName,
        hash,
        report,
        bodies: bodies ?? [],
        box: boxOf(mesh),
        triangles: mesh.indices.length / 3,
      };
    } catch (error) {
      this.files.refuse(file, messageOf(error));
      throw error;
    }
  }

  /** Files of a job that are to be read before it is taken. */
  lacking(job: Job): ModelFile[] {
    return this.files.lacking(job);
  }

  private async readKept(fileName: string, bytes: Uint8Array, unit: LengthUnit, hash: string): Promise<ReadMesh> {
    const key = `${hash}|${unit}`;
    const kept = await this.outside.meshes.get(key);
    if (kept) return kept;
    const isStep = formatOf(fileName).id === 'step';
    const read = await (isStep || !this.reader
      ? readPart(fileName, bytes, unit, this.outside.readStep)
      : this.reader.read(fileName, bytes, unit));
    await this.outside.meshes.put(key, read);
    return read;
  }

  /** Ends a reading that goes on in a worker of its own. */
  stopReading(): void {
    this.outside.stopStep();
  }

  /**
   * Takes the job as it is now. What keeps its piece from being machined is told with the state: the job is taken all the
   * same, so that it can be mended, and nothing is calculated until it is. Work that goes on is called off where the change
   * concerns it.
   *
   * @param revision number of the change, told with every state that holds for it
   */
  take(job: Job, revision: number): ToldJob {
    if (this.job?.id !== job.id) {
      this.files.keepOnly(job);
      this.meshes = this.piece = this.revision = undefined;
    }
    this.revisionNumber = revision;
    this.job = job;
    let problem: string | undefined;
    try {
      this.meshes = job.part ? this.files.meshes(job) : undefined;
      this.piece = this.meshes && Piece.of(job, this.meshes, this.piece);
      problem = this.piece?.problem || undefined;
    } catch (error) {
      this.meshes = undefined;
      problem = messageOf(error);
      this.piece = Piece.unfit(problem);
    }
    this.session.take(job, this.piece);
    return { ...this.state(), piece: this.pieceView(), problem };
  }

  /**
   * A job to be taken next, with heights and limits of its steps gone with their faces where it has another part, or another
   * blank, than the job as it is now. What changed is told with the piece once the new part is taken in.
   */
  revised(now: Job, next: Job): Job {
    if (this.job?.id !== next.id || !now.part || !next.part || this.files.lacking(now).length > 0) return next;
    const before = this.placed(now);
    const after = this.placed(next);
    // what keeps the piece from being machined is told when it is taken
    if (!before || !after) return next;
    if (before.part === after.part) return followBound(before, after).job;
    const { lay } = next.part;
    const [was, is] = [layMesh(before.part, lay), layMesh(after.part, lay)];
    const isSameFile = now.part.hash === next.part.hash && now.part.unit === next.part.unit;
    const isScaled = isSameFile && !isAlike(now.part.scale, next.part.scale);
    const { report, pairs } = isScaled ? compareScaled(was, is) : compareRevisions(was, is);
    // a part that shares few faces with the one before is another part: its top and lowest place it has all the same
    if (report.same + report.moved.length <= report.gone.length) {
      const held = followBound(before, after, { moved: () => undefined });
      this.revision = { part: after.part, followed: held.followed, outlines: [] };
      return held.job;
    }
    const held = followBound(before, after, new MovedPlaces(was, is, pairs));
    const [zeroBefore, zero] = [before, after].map(({ job, boxes }) => workZeroPoint(job, boxes)[2]) as [
      number,
      number,
    ];
    const heights = followFaces(held.job, report.levels, zeroBefore, zero);
    const outlines = followOutlines(heights.job, was, is, pairs);
    const picks = followFacePicks(outlines.job, before.part, after.part, pairs);
    const followed = [...held.followed, ...heights.followed];
    const limits = [...outlines.followed, ...picks.followed];
    // a body with another role is no revision of the file
    const told = isSameFile && !isScaled ? {} : { report };
    this.revision = { part: after.part, ...told, followed, outlines: limits };
    return picks.job;
  }

  /** A job with its part, and the boxes of part and blank as they lie; undefined where those cannot be had. */
  private placed(job: Job): (Lying & { part: TriangleMesh }) | undefined {
    try {
      const { part, blank } = meshesOfJob(job, (file) => this.files.read(file));
      const { lay } = job.part!;
      return { job, part, boxes: laidBoxes(layMesh(part, lay), blank && layMesh(blank, lay)) };
    } catch (error) {
      if (error instanceof EsquisseError) return undefined;
      throw error;
    }
  }

  private theMeshes(): DrawnMeshes {
    if (!this.meshes) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    return this.meshes;
  }

  private pieceView(): PieceView | undefined {
    const { job, meshes, revision } = this;
    const file = job?.part && this.files.read(job.part);
    if (!meshes || !file) return undefined;
    meshes.drawing ??= partDrawing(meshes.part);
    meshes.faces ??= facesOf(surfaceOf(meshes.part)).count;
    const own = revision?.part === meshes.part ? revision : undefined;
    return {
      key: meshes.key,
      steelKey: this.piece?.problem ? '' : (this.piece?.key ?? ''),
      drawing: meshes.drawing,
      boxes: this.boxes()!,
      fixtures: this.piece?.fixtures?.triangles ?? new Float64Array(),
      triangles: meshes.part.indices.length / 3,
      faces: meshes.faces,
      volume: Math.abs(volumeOf(meshes.part)),
      ...(meshes.blank ? { blankVolume: Math.abs(volumeOf(meshes.blank)) } : {}),
      bodies: file.bodies ?? [],
      report: file.report,
      doubts: file.doubts ?? [],
      revision: own?.report,
      followed: own?.followed ?? [],
      outlines: own?.outlines ?? [],
    };
  }

  private boxes(): LaidBoxes | undefined {
    const lay = this.job?.part?.lay;
    if (!lay || !this.meshes) return undefined;
    const { part, blank } = this.meshes;
    return laidBoxes(layMesh(part, lay), blank && layMesh(blank, lay));
  }

  /** What brings a point of the frame of the work zero into the frame of the part's file. */
  private fromZero(): (point: Vec3) => Vec3 {
    const { job } = this;
    const boxes = this.boxes();
    if (!job?.part || !boxes) return (point) => point;
    const { lay } = job.part;
    const [x, y, z] = workZeroPoint(job, boxes);
    return (p) => unlaid(lay, [p[0] + x, p[1] + y, p[2] + z]);
  }

  /** Id of the last step up to which every path is kept from an earlier visit; undefined for none. */
  async keptThrough(): Promise<string | undefined> {
    const at = await this.session.keptThrough();
    return this.session.snapshot.job.steps[at]?.id;
  }

  /**
   * Brings the steps up to one of them up to date, and gives how the plan stands then.
   *
   * @param onState told after each of them; it goes by a channel of its own and may come later than what is given
   */
  async calculate(
    jobId: string,
    through: string,
    onProgress: (progress: Progress) => void,
    onState: (state: ToldState) => void,
  ): Promise<ToldState> {
    if (jobId !== this.job?.id) throw new EsquisseError('cancelled', 'Another job was opened.');
    await this.session.calculate(
      { crew: (cancel) => crewOf(this.callers, cancel), onProgress, onResult: () => onState(this.state()) },
      through,
    );
    return this.state();
  }

  /** Calls the calculation off that goes on. */
  stop(): void {
    this.session.stop();
  }

  /** What a step will come to, in the job as it is now; undefined where that cannot be told before it is calculated. */
  expected(stepId: string, cancel: Int32Array): Promise<ExpectedStep | undefined> {
    return this.session.expected(stepId, this.crew(cancel));
  }

  /** What other cutters and patterns would do in a finishing step. */
  finishers(stepId: string, ...[cancel, onProgress]: Watched): Promise<Finishers> {
    return this.session.finishers(stepId, this.crew(cancel), onProgress);
  }

  /** A step beside the kind that does the same in another way. */
  rivals(stepId: string, ...[cancel, onProgress]: Watched): Promise<Rivals> {
    return this.session.rivals(stepId, this.crew(cancel), onProgress);
  }

  nextCutters(
    at: { index: number; allowance: number; threshold: number | null },
    tell: (rows: CutterRow[], isLast: boolean) => void,
    ...[cancel, onProgress]: Watched
  ): Promise<void> {
    return this.session.nextCutters(at.index, at.allowance, at.threshold, this.crew(cancel), tell, onProgress);
  }

  /** Posts the job as it was with a change, and proves the text. @throws EsquisseError `cancelled` when it was changed since */
  async release(revision: number, ...[cancel, onProgress]: Watched): Promise<Release> {
    if (revision !== this.revisionNumber) throw changedMeanwhile();
    const released = await release(this.session, this.crew(cancel), onProgress);
    if (revision !== this.revisionNumber) throw changedMeanwhile();
    return released;
  }

  private crew(cancel: Int32Array): Crew {
    return crewOf(this.callers, new CancelFlag(cancel));
  }

  private state(): ToldState {
    const { job, session, revisionNumber: revision } = this;
    const steps = job?.steps ?? [];
    const summaries = steps.flatMap(({ id }) => {
      const result = session.results.get(id);
      if (!result) return [];
      const name = this.names.get(result) ?? crypto.randomUUID();
      this.names.set(result, name);
      return [
        { stepId: id, name, figures: result.figures, path: result.path, times: result.times, contact: result.contact },
      ];
    });
    return {
      revision,
      serial: ++this.serial,
      summaries,
      fresh: steps.filter(({ id }) => session.isFresh(id)).map(({ id }) => id),
    };
  }
}

function changedMeanwhile(): EsquisseError {
  return new EsquisseError('job-invalid', 'The job was changed while its program was proven: post it again.');
}

const isAlike = (a: readonly number[], b: readonly number[]): boolean => a.every((v, k) => v === b[k]);
