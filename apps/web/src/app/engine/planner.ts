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
  followFaces,
  type FollowedOutline,
  addPicks,
  type FacePick,
  facesPicked,
  type Followed,
  followOutlines,
  type HeightMap,
  type Job,
  type LoadQuantity,
  type Rivals,
  laidBoxes,
  type LaidBoxes,
  layMesh,
  meshesOfJob,
  leftoverFigures,
  messageOf,
  type PathCache,
  Piece,
  type Picked,
  type Point2,
  type Progress,
  type ReadMesh,
  readPart,
  release,
  type Release,
  remoteCaller,
  type RevisionReport,
  Session,
  steelSoup,
  type StepReader,
  type StepResult,
  surfaceOf,
  type Survey,
  type TriangleMesh,
  unlaid,
  type Vec3,
  volumeOf,
  workZeroPoint,
  writeStl,
  writeThreeMf,
  boxOf,
  formatOf,
  togglePick,
  type Lay,
  type LengthUnit,
  type ModelFile,
} from '@esquisse/core';
import { type Remote, wrap } from 'comlink';
import { type DrawnSteel, histogram, SteelDrawing } from './display';
import type { HelperApi } from './helper.worker';
import { reachView, ridgeView } from './lensViews';
import type { MeshStore } from './meshCache';
import { partDrawing } from './partDrawing';
import { PartLook } from './partLook';
import { type DrawnMeshes, PieceFiles } from './pieceFiles';
import type { ReaderApi } from './reader.worker';
import type {
  FileView,
  LeftoverView,
  Moment,
  PieceView,
  ReachView,
  RegionView,
  LoadView,
  RidgeView,
  ToldJob,
  ToldState,
} from './views';

const BINS = 12;
/** Cells of the steel that a file of it holds at most. */
const MOST_TERRACES = 120_000;

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
  readonly followed: readonly Followed[];
  readonly outlines: readonly FollowedOutline[];
}

/** How work is called off, and who hears how far it has come. */
export type Watched = [cancel: Int32Array, onProgress: (share: number) => void];

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
  private readonly look = new PartLook((cancel) => this.crew(cancel));
  private readonly drawing = new SteelDrawing();
  private looking: { key: string; field: Float32Array } = { key: '', field: new Float32Array() };

  constructor(private readonly outside: Outside) {
    this.session = new Session(outside.paths);
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
    // a part that shares few faces with the one before is another part
    if (report.same + report.moved.length <= report.gone.length) return next;
    const zero = workZeroPoint(next, laidBoxes(is, blank && layMesh(blank, lay)))[2];
    const heights = followFaces(next, report.levels, this.zeroHeight(), zero);
    const outlines = followOutlines(heights.job, was, is, pairs);
    const picks = followFacePicks(outlines.job, before, part, pairs);
    const held = [...outlines.followed, ...picks.followed];
    this.revision = { part, report, followed: heights.followed, outlines: held };
    return picks.job;
  }

  /** The part looked over, as it lies one way. */
  surveyed(lay: Lay, cancel: Int32Array): Promise<Survey> {
    return this.look.survey(this.theMeshes(), lay, cancel);
  }

  /** What is meant by a place on a triangle of the part, in the frame that it lies in; `reach` in mm. */
  pick(lay: Lay, triangle: number, point: Vec3, reach: number): Promise<Picked> {
    return this.look.pick(this.theMeshes(), lay, triangle, point, reach);
  }

  /** Outlines in plan view of what lies under triangles of the part, in the frame that it lies in. */
  outlines(lay: Lay, triangles: readonly number[]): Point2[][] {
    return this.look.outlines(this.theMeshes(), lay, triangles);
  }

  /** Triangles of the part that belong to picked faces. */
  facesLit(picks: readonly FacePick[]): number[] {
    const { marks } = facesPicked(this.theMeshes().part, picks);
    return [...marks.keys()].filter((t) => marks[t]);
  }

  /** Picked faces with that of a triangle added, or taken away when it is among them. */
  facesToggled(picks: readonly FacePick[], triangle: number): readonly FacePick[] {
    return togglePick(this.theMeshes().part, picks, triangle);
  }

  /** Picked faces with all that hold one of these triangles. */
  facesAdded(picks: readonly FacePick[], triangles: readonly number[]): readonly FacePick[] {
    return addPicks(this.theMeshes().part, picks, triangles);
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

  /** The steel at a moment. */
  steel(moment: Moment): DrawnSteel {
    return this.drawing.of(this.mapAt(moment));
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

  async leftover(moment: Moment, ...watched: Watched): Promise<LeftoverView> {
    const map = this.mapAt(moment);
    const field = await this.fieldAt(moment, map, watched);
    const figures = leftoverFigures(field);
    const high = Math.max(0.02, Math.min(figures.largest, figures.p99 * 1.15));
    const low = figures.gouge > 0 ? -Math.min(figures.gouge, high) : 0;
    return { steel: this.drawing.of(map, field), figures, low, high, bins: histogram(field, low, high, BINS) };
  }

  /** Where a step would cut, in the job as it is now. */
  async region(stepId: string, ...[cancel, onProgress]: Watched): Promise<RegionView> {
    const found = await this.session.regionOf(stepId, this.crew(cancel), onProgress);
    if (!found) throw new EsquisseError('job-invalid', 'This kind of step does not look for a region.', stepId);
    const field = found.map.heights.map((h) => (h > -Infinity ? 1 : NaN));
    const { area, volume, threshold, stairs } = found;
    return { area, volume, threshold, stairs, steel: this.drawing.of(found.stock, field) };
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

  /** How far a step's cutter has to stand out over the part. */
  async reach(stepId: string, ...[cancel, onProgress]: Watched): Promise<ReachView> {
    return reachView(this.drawing, await this.session.standOut(stepId, this.crew(cancel), onProgress), BINS);
  }

  /** Ridges of a step that is up to date, as they are seen from above. */
  async ridges(stepId: string, ...[cancel, onProgress]: Watched): Promise<RidgeView> {
    return ridgeView(this.drawing, await this.session.ridges(stepId, this.crew(cancel), onProgress), BINS);
  }

  /** How hard the step at the playhead cut, over the steel that it took up to there. */
  load({ stepId, motion }: Moment, quantity: LoadQuantity): LoadView {
    const figure = stepId === null ? undefined : this.session.results.get(stepId)?.figures.load?.[quantity];
    if (stepId === null || !figure)
      throw new EsquisseError('job-invalid', 'The load shows at a step that is calculated and takes steel.');
    const map = this.session.steelAt(stepId, motion);
    const field = this.session.loadField(stepId, map, motion, quantity);
    return { steel: this.drawing.of(map, field), stepId, quantity, figure };
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

  private mapAt({ stepId, motion }: Moment): HeightMap {
    return stepId === null || !this.session.results.has(stepId)
      ? this.session.snapshot.piece.steel
      : this.session.steelAt(stepId, motion);
  }

  private async fieldAt(
    { stepId, motion }: Moment,
    map: HeightMap,
    [cancel, onProgress]: Watched,
  ): Promise<Float32Array> {
    const result = stepId === null ? undefined : this.session.results.get(stepId);
    if (!result) return this.session.leftoverOfBlank(this.crew(cancel), onProgress);
    if (motion >= result.path.x.length - 1) return result.steel.leftover;
    const key = `${result.key}:${motion}`;
    if (this.looking.key !== key) {
      const field = await this.session.leftoverAt(result.stepId, map, this.crew(cancel), onProgress);
      this.looking = { key, field };
    }
    return this.looking.field;
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
