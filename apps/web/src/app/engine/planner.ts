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
  type MovedLevels,
  type Followed,
  type FollowedBound,
  followOutlines,
  type Job,
  type Rivals,
  laidBoxes,
  type LaidBoxes,
  layMesh,
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
  readonly report: RevisionReport;
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
   * A job to be taken next, with heights and limits of its steps gone with their faces where it has a new revision of the part
   * that is taken in now. What changed is told with the piece once the new part is taken in.
   */
  revised(next: Job): Job {
    const before = this.meshes?.part;
    if (this.job?.id !== next.id || !before || !next.part) return next;
    const { part, blank } = meshesOfJob(next, (file) => this.files.read(file));
    if (part === before) return next;
    const { lay } = next.part;
    const [was, is] = [layMesh(before, lay), layMesh(part, lay)];
    const now = this.job.part;
    const isScaled =
      now?.hash === next.part.hash && now.unit === next.part.unit && !isAlike(now.scale, next.part.scale);
    const { report, pairs } = isScaled ? compareScaled(was, is) : compareRevisions(was, is);
    this.revision = undefined;
    const boxes = laidBoxes(is, blank && layMesh(blank, lay));
    // all but the part is as in the job to be taken: other changes of it were followed when they were made
    const bound = (levels: MovedLevels) =>
      followBound({ job: { ...next, part: this.job!.part }, boxes: this.boxes()! }, { job: next, boxes }, levels);
    // a part that shares few faces with the one before is another part: its top and lowest place it has all the same
    if (report.same + report.moved.length <= report.gone.length) return bound([]).job;
    const held = bound(report.levels);
    const heights = followFaces(held.job, report.levels, this.zeroHeight(), workZeroPoint(next, boxes)[2]);
    const outlines = followOutlines(heights.job, was, is, pairs);
    const picks = followFacePicks(outlines.job, before, part, pairs);
    const limits = [...outlines.followed, ...picks.followed];
    this.revision = { part, report, followed: [...held.followed, ...heights.followed], outlines: limits };
    return picks.job;
  }

  private theMeshes(): DrawnMeshes {
    if (!this.meshes) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    return this.meshes;
  }

  /** Height of the work zero in the oriented frame, mm. */
  private zeroHeight(): number {
    const boxes = this.boxes();
    return this.job && boxes ? workZeroPoint(this.job, boxes)[2] : 0;
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
