import { Injectable, signal } from '@angular/core';
import {
  type Bundle,
  CancelFlag,
  type Crib,
  type CutterRow,
  EsquisseError,
  type ExpectedStep,
  type FacePick,
  type Finishers,
  type Job,
  type LoadQuantity,
  type ModelFile,
  type Outlines,
  type Picked,
  type Point2,
  type Progress,
  type Rivals,
  type Survey,
  type Vec3,
  type Zone,
  type Lay,
  type LengthUnit,
} from '@esquisse/core';
import { proxy, type Remote } from 'comlink';
import { Subject } from 'rxjs';
import type { DrawnSteel } from './display';
import type { Planner } from './planner';
import type { CribRead } from './reader.worker';
import { Team } from './team';
import { postedOf, stateOf, takenOf } from './runs';
import type {
  FileView,
  LeftoverView,
  Moment,
  PieceView,
  PlanState,
  Posted,
  ReachView,
  LoadView,
  RidgeView,
  RegionView,
  TakenState,
} from './views';
import { keepErrorsWhole } from './wire';

/** Work that can be called off by its name. */
export type WorkName =
  | 'calculation'
  | 'reading'
  | 'release'
  | 'leftover'
  | 'region'
  | 'reach'
  | 'ridges'
  | 'expectation'
  | 'comparison'
  | 'rivals'
  | 'survey'
  | 'zones';

/** A file that takes longer to read is given up, s. */
export const READING_S = 300;

/** The page's side of all heavy work: a planner in its worker, and its helpers in theirs. */
@Injectable({ providedIn: 'root' })
export class Engine {
  /** The piece as it is oriented on the machine. */
  readonly piece = signal<PieceView | undefined>(undefined);
  /** Told when a thread has ended and all were started again: nothing is known to them then. */
  readonly lost = new Subject<EsquisseError>();
  private team: Team;
  /** What calls off each work that goes on. */
  private readonly stops = new Map<WorkName, () => void>();
  /** What ends each reading that goes on. */
  private readonly readings = new Set<(error: EsquisseError) => void>();
  private revision = 0;

  constructor() {
    keepErrorsWhole();
    this.team = this.startTeam();
  }

  private startTeam(): Team {
    const team = new Team();
    team.lost.catch((error: EsquisseError) => {
      if (team.isDismissed) return;
      team.dismiss();
      this.team = this.startTeam();
      this.lost.next(error);
    });
    return team;
  }

  /** Asks the planner for something; fails when its team is lost meanwhile. */
  private ask<T>(call: (planner: Remote<Planner>) => Promise<T>): Promise<T> {
    return Promise.race([call(this.team.planner), this.team.lost]);
  }

  /** Calls a work off, if it goes on. */
  stop(name: WorkName): void {
    this.stops.get(name)?.();
  }

  /** Work that a flag calls off; one of the same name that goes on already is called off by it. */
  private async flagged<T>(name: WorkName, work: (cancel: Int32Array) => Promise<T>): Promise<T> {
    this.stop(name);
    const flag = new CancelFlag();
    const stop = (): void => flag.cancel();
    this.stops.set(name, stop);
    try {
      return await work(flag.cell);
    } finally {
      if (this.stops.get(name) === stop) this.stops.delete(name);
    }
  }

  /** Reads a part's file. @throws EsquisseError with what is wrong with it, or `cancelled` */
  read(fileName: string, bytes: Uint8Array, unit: LengthUnit): Promise<FileView> {
    return this.reading(fileName, () => this.ask((p) => p.read(fileName, bytes, unit)));
  }

  /** The closed outlines of a drawing. */
  outlines(file: File): Promise<Outlines> {
    return this.reading(file.name, ({ files }) => files.outlines(file));
  }

  /** A whole job from its file. */
  openJob(file: File): Promise<Bundle> {
    return this.reading(file.name, ({ files }) => files.job(file));
  }

  /** A whole job as a file. */
  packJob(bundle: Bundle): Promise<Uint8Array> {
    const { team } = this;
    return Promise.race([team.files.pack(bundle), team.readerLost]);
  }

  /** A crib, or a table taken into one. */
  readCrib(file: File, crib: Crib): Promise<CribRead> {
    return this.reading(file.name, ({ files }) => files.crib(file, crib));
  }

  readJson(file: File): Promise<unknown> {
    return this.reading(file.name, ({ files }) => files.json(file));
  }

  /** A reading that ends at once when it is stopped, when its time is up, or when what reads has ended. */
  private async reading<T>(fileName: string, call: (team: Team) => Promise<T>): Promise<T> {
    const { team } = this;
    let end: (error: EsquisseError) => void = () => undefined;
    const ended = new Promise<never>((_, reject) => {
      end = reject;
    });
    // all readings go on in one worker, and end with it
    const stopAll = (error: EsquisseError): void => {
      team.stopReading();
      for (const each of [...this.readings]) each(error);
    };
    this.readings.add(end);
    this.stops.set('reading', () => stopAll(new EsquisseError('cancelled', 'Called off.')));
    const late = setTimeout(() => {
      end(takesTooLong(fileName));
      stopAll(
        new EsquisseError('file-unreadable', `The reading was ended with that of "${fileName}": read the file again.`),
      );
    }, READING_S * 1000);
    try {
      return await Promise.race([call(team), ended, team.readerLost]);
    } finally {
      clearTimeout(late);
      this.readings.delete(end);
      if (this.readings.size === 0) this.stops.delete('reading');
    }
  }

  /** Files of a job that the planner has not at hand: after an undo, after another job, or when it was started again. */
  lacking(job: Job): Promise<ModelFile[]> {
    return this.ask((p) => p.lacking(job));
  }

  /** A job to be taken next, with what follows the faces of another part than the job has now. */
  revised(now: Job, next: Job): Promise<Job> {
    return this.ask((p) => p.revised(now, next));
  }

  /** Takes the job as it is now; the state tells what keeps its piece from being machined. */
  async take(job: Job, revision: number): Promise<TakenState> {
    this.revision = revision;
    const state = await this.ask((p) => p.take(job, revision));
    if (revision === this.revision) this.piece.set(sameWhereEqual(this.piece(), state.piece));
    return takenOf(state);
  }

  /** What is meant by a place on a triangle of the part, in the oriented frame. */
  pick(lay: Lay, triangle: number, point: Vec3, reach: number): Promise<Picked> {
    return this.ask((p) => p.look.pick(lay, triangle, point, reach));
  }

  /** Outlines in plan view of what lies under triangles of the part, in the oriented frame, the largest first. */
  outlinesUnder(lay: Lay, triangles: readonly number[]): Promise<Point2[][]> {
    return this.ask((p) => p.look.outlines(lay, triangles));
  }

  /** Triangles of the part that belong to picked faces. */
  facesLit(picks: readonly FacePick[]): Promise<number[]> {
    return this.ask((p) => p.look.facesLit(picks));
  }

  /** Picked faces with that of a triangle added, or taken away when it is among them. */
  facesToggled(picks: readonly FacePick[], triangle: number): Promise<readonly FacePick[]> {
    return this.ask((p) => p.look.facesToggled(picks, triangle));
  }

  /** Picked faces with all that hold one of these triangles. */
  facesAdded(picks: readonly FacePick[], triangles: readonly number[]): Promise<readonly FacePick[]> {
    return this.ask((p) => p.look.facesAdded(picks, triangles));
  }

  /** The part looked over. */
  survey(lay: Lay): Promise<Survey> {
    return this.flagged('survey', (cancel) => this.ask((p) => p.look.survey(lay, cancel)));
  }

  /** Zones of steel that are to be removed before the part is there, the largest first. */
  zones(): Promise<readonly Zone[]> {
    return this.flagged('zones', (cancel) => this.ask((p) => p.steel.zones(cancel)));
  }

  /** Id of the last step up to which every path is kept from an earlier visit; undefined for none. */
  keptThrough(): Promise<string | undefined> {
    return this.ask((p) => p.keptThrough());
  }

  /** Brings steps up to date; when a calculation goes on already, it takes these in. */
  async calculate(
    jobId: string,
    through: string,
    onProgress: (progress: Progress) => void,
    onState: (state: PlanState) => void,
  ): Promise<PlanState> {
    const { team } = this;
    this.stops.set('calculation', () => void team.planner.stop());
    const told = await this.ask((p) =>
      p.calculate(
        jobId,
        through,
        proxy(onProgress),
        proxy((state) => {
          // what comes late from a planner that has ended is told by nobody
          if (team === this.team) onState(stateOf(state));
        }),
      ),
    );
    return stateOf(told);
  }

  async release(onProgress: (share: number) => void): Promise<Posted> {
    const { revision } = this;
    return postedOf(
      await this.flagged('release', (cancel) => this.ask((p) => p.release(revision, cancel, proxy(onProgress)))),
    );
  }

  steel(moment: Moment): Promise<DrawnSteel> {
    return this.ask((p) => p.steel.at(moment));
  }

  /** The steel at a moment as a file, in the frame of the part's file. */
  steelFile(moment: Moment, format: 'stl' | '3mf'): Promise<Uint8Array> {
    return this.ask((p) => p.steel.file(moment, format));
  }

  /** Where a step would cut. @throws EsquisseError when the step before is not up to date, or nothing is left */
  region(stepId: string, onProgress: (share: number) => void): Promise<RegionView> {
    return this.flagged('region', (cancel) => this.ask((p) => p.steel.region(stepId, cancel, proxy(onProgress))));
  }

  /** How far a step's cutter has to stand out over the part. */
  reach(stepId: string, onProgress: (share: number) => void): Promise<ReachView> {
    return this.flagged('reach', (cancel) => this.ask((p) => p.steel.reach(stepId, cancel, proxy(onProgress))));
  }

  /** Ridges of a step that is up to date. @throws EsquisseError when it has none to be measured */
  ridges(stepId: string, onProgress: (share: number) => void): Promise<RidgeView> {
    return this.flagged('ridges', (cancel) => this.ask((p) => p.steel.ridges(stepId, cancel, proxy(onProgress))));
  }

  /** How hard the step at the playhead cut. @throws EsquisseError when no calculated step is there, or it takes no steel */
  load(moment: Moment, quantity: LoadQuantity): Promise<LoadView> {
    return this.ask((p) => p.steel.load(moment, quantity));
  }

  /** A step beside the kind that does the same in another way. @throws EsquisseError when it is not up to date, or there is none */
  rivals(stepId: string, onProgress: (share: number) => void): Promise<Rivals> {
    return this.flagged('rivals', (cancel) => this.ask((p) => p.rivals(stepId, cancel, proxy(onProgress))));
  }

  /** What each cutter would take of the steel at a place of the workplan, told better and better. */
  nextCutters(
    at: { index: number; allowance: number; threshold: number | null },
    onProgress: (share: number) => void,
    tell: (rows: CutterRow[], isLast: boolean) => void,
  ): Promise<void> {
    return this.flagged('comparison', (cancel) =>
      this.ask((p) => p.nextCutters(at, proxy(tell), cancel, proxy(onProgress))),
    );
  }

  /** What a step will come to before it is calculated; undefined where that cannot be told. */
  expected(stepId: string): Promise<ExpectedStep | undefined> {
    return this.flagged('expectation', (cancel) => this.ask((p) => p.expected(stepId, cancel)));
  }

  /** What other cutters and patterns would do in a finishing step. */
  finishers(stepId: string, onProgress: (share: number) => void): Promise<Finishers> {
    return this.flagged('comparison', (cancel) => this.ask((p) => p.finishers(stepId, cancel, proxy(onProgress))));
  }

  leftover(moment: Moment, onProgress: (share: number) => void): Promise<LeftoverView> {
    return this.flagged('leftover', (cancel) => this.ask((p) => p.steel.leftover(moment, cancel, proxy(onProgress))));
  }
}

function takesTooLong(fileName: string): EsquisseError {
  return new EsquisseError(
    'file-unreadable',
    `"${fileName}" was not read within ${READING_S / 60} minutes and was given up: it is damaged, or too fine for this machine. Save it coarser.`,
    fileName,
  );
}

/** A piece with the parts of the one before that are the same, so that what is drawn of them stays as it is. */
function sameWhereEqual(before: PieceView | undefined, now: PieceView | undefined): PieceView | undefined {
  if (!before || before.key !== now?.key) return now;
  const fixtures = isSame(before.fixtures, now.fixtures) ? before.fixtures : now.fixtures;
  return { ...now, drawing: before.drawing, fixtures };
}

function isSame(a: Float64Array, b: Float64Array): boolean {
  return a.length === b.length && a.every((v, k) => v === b[k]);
}
