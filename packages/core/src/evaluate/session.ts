import { CancelFlag } from '../base/cancel';
import { EsquisseError, isCancelled, messageOf } from '../base/errors';
import type { Crew } from '../crew/crew';
import type { Box } from '../geometry/box';
import { sizeDoubt } from '../job/frame';
import { type Job, stepsOn } from '../job/job';
import { unwatched } from '../simulate/body';
import { machineBand } from '../simulate/machining';
import { copyMap, finerWindow, type HeightMap } from '../steel/heightMap';
import { restoreBand } from '../steel/history';
import { leastThreshold, type RestRegion } from '../steel/restRegion';
import type { LoadQuantity } from '../load/loadAlong';
import { toolsOf } from '../tool/library';
import {
  calculateStep,
  contextOf,
  finerCell,
  leftoverOn,
  onFinerCells,
  type PathCache,
  type Progress,
  steelAfter,
} from './calculate';
import { type CutterRow, tryCutters } from './nextCutters';
import { Expectations, type ExpectedStep } from './expected';
import { compareFinishers, type Finishers } from './finishers';
import type { Piece } from './piece';
import { retimed, type StepResult } from './result';
import { Snapshot, type SnapshotStep } from './snapshot';
import { compareRivals, type Rivals } from './rivals';
import { loadField } from './loadLens';
import { type RidgeField, ridgeField } from './ridgeLens';
import { type StandOut, standOutOver } from './standOut';

/** Results that hold no longer, kept aside in case what they were calculated from comes back by undo. */
const MOST_ASIDE = 4;

/** Who does the work of a run, and who hears of it. */
export interface RunWork {
  /** Makes a crew whose work a flag calls off. */
  readonly crew: (cancel: CancelFlag) => Crew;
  readonly onProgress: (progress: Progress) => void;
  /** A step was brought up to date. */
  readonly onResult?: (stepId: string) => void;
}

/** A calculation that goes on. */
interface Run {
  /** Steps that are to be brought up to date. */
  readonly wanted: Set<string>;
  /** Calls the present piece of work off. */
  flag: CancelFlag;
  /** The step that is calculated, and what from. */
  now?: { readonly stepId: string; readonly key: string };
  /** Why the run is to end. */
  ended?: EsquisseError;
  readonly done: Promise<void>;
}

/**
 * Calculates the steps of one setup, each from the steel that the one before left, and keeps what holds. Everything is
 * calculated on snapshots: a result is kept only with the key of what it was calculated from, and shown as up to date only
 * while the job as it is has that key.
 */
export class Session {
  private readonly held = new Map<string, StepResult>();
  private aside: StepResult[] = [];
  private present?: Snapshot;
  private run?: Run;
  private blankLeftover?: { steel: HeightMap; field: Float32Array };
  private expectations = new Expectations();
  private finer?: { key: string; cell: number; steel: HeightMap };

  constructor(private readonly cache?: PathCache) {}

  /** The newest result of each step, by its id; up to date or not. */
  get results(): ReadonlyMap<string, StepResult> {
    return this.held;
  }

  /** The job with its piece as they are now. @throws EsquisseError when there is none yet */
  get snapshot(): Snapshot {
    if (!this.present) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    return this.present;
  }

  /**
   * Takes the job as it is now. What was calculated for it holds on; a step that is being calculated goes on when the change
   * does not concern it, and is called off when it does; another job ends the run.
   *
   * @param piece undefined while the job has no part
   */
  take(job: Job, piece: Piece | undefined): void {
    if (this.present && this.present.job.id !== job.id) this.forget();
    this.present = piece && new Snapshot(job, piece);
    const ids = new Set(stepsOn(job).map((s) => s.id));
    for (const [id, result] of this.held) if (!ids.has(id)) this.putAside(result);
    for (const at of this.present?.steps ?? []) this.keepUp(at);
    const { now, flag } = this.run ?? {};
    if (now && this.present?.step(now.stepId)?.key !== now.key) flag!.cancel();
  }

  /** Gives up all results and ends the run: another job is opened. */
  forget(): void {
    this.end(new EsquisseError('cancelled', 'Called off: another job was opened.'));
    this.run = undefined;
    this.present = undefined;
    this.held.clear();
    this.aside = [];
    this.blankLeftover = undefined;
    this.expectations = new Expectations();
    this.finer = undefined;
  }

  /** Whether a step's result holds for the job as it is. */
  isFresh(stepId: string): boolean {
    const at = this.present?.step(stepId);
    return !!at && this.held.get(stepId)?.key === at.key;
  }

  /** Place of the last step up to which every path is kept from an earlier visit or up to date; -1 for none. */
  async keptThrough(): Promise<number> {
    const { steps } = this.snapshot;
    for (const { number, step, key } of steps)
      if (!this.isFresh(step.id) && !(await this.cache?.get(key))) return number - 2;
    return this.snapshot.job.steps.length - 1;
  }

  /**
   * Brings the steps up to one of them (the last when left out) up to date, as the job is when each has its turn: a step that is
   * changed while it is calculated is called off and calculated as it is then. When a run goes on already, it takes these
   * steps in.
   *
   * @throws EsquisseError `cancelled`, or what keeps a step from being calculated, with the step's id as its place
   */
  async calculate(work: RunWork, through?: string): Promise<void> {
    const { job, piece } = this.snapshot;
    piece.refuseProblem();
    const ids = stepsOn(job, through).map((s) => s.id);
    const going = this.run;
    if (going && !going.ended) {
      for (const id of ids) going.wanted.add(id);
      return going.done;
    }
    const run: Run = { wanted: new Set(ids), flag: new CancelFlag(), done: Promise.resolve() };
    const done = this.pursue(run, work).finally(() => {
      if (this.run === run) this.run = undefined;
    });
    this.run = Object.assign(run, { done });
    return done;
  }

  /** Ends the run that goes on. */
  stop(): void {
    this.end(new EsquisseError('cancelled', 'Called off.'));
  }

  private end(why: EsquisseError): void {
    if (!this.run) return;
    this.run.ended = why;
    this.run.flag.cancel();
  }

  private async pursue(run: Run, work: RunWork): Promise<void> {
    // what this call began is known as the run before any of it is done
    await Promise.resolve();
    for (;;) {
      if (run.ended) throw run.ended;
      const snapshot = this.snapshot;
      snapshot.piece.refuseProblem();
      const at = this.nextOf(snapshot, run.wanted);
      if (!at) return;
      run.flag = new CancelFlag();
      run.now = { stepId: at.step.id, key: at.key };
      try {
        const result = await this.calculateOne(snapshot, at, work, run.flag);
        if (!run.ended && this.hold(result)) work.onResult?.(result.stepId);
      } catch (error) {
        if (run.ended) throw run.ended;
        // called off, or failed, for values that are others now: taken up again with those, or with the same when they came back
        if (isCancelled(error)) continue;
        if (this.present?.step(at.step.id)?.key === at.key) throw errorOfStep(error, at.step.id, snapshot);
      } finally {
        run.now = undefined;
      }
    }
  }

  /** The first step to be calculated so that all wanted ones are up to date. */
  private nextOf({ steps }: Snapshot, wanted: ReadonlySet<string>): SnapshotStep | undefined {
    const last = steps.findLast((s) => wanted.has(s.step.id))?.index ?? -1;
    return steps.find((s) => s.index <= last && !this.isFresh(s.step.id));
  }

  private async calculateOne(
    snapshot: Snapshot,
    at: SnapshotStep,
    { crew: crewFor, onProgress }: RunWork,
    flag: CancelFlag,
  ): Promise<StepResult> {
    const crew = crewFor(flag);
    const before = this.resultBefore(snapshot, at.index);
    const result = await calculateStep(snapshot, at, before, { crew, onProgress, cache: this.cache });
    const cell = finerCell(snapshot, at);
    if (cell === undefined) return result;
    onProgress({ stepId: at.step.id, what: 'ridges', share: 0.95 });
    const steel = await this.steelBeforeOn(snapshot, at.index, cell, crew);
    const finer = await onFinerCells(snapshot.piece, at, result, steel, crew);
    this.finer = { key: at.key, cell, steel: finer.steel.after };
    return finer;
  }

  /** The steel before a step on cells of another size: run again from the last step that is known on such cells, or the blank. */
  private async steelBeforeOn(snapshot: Snapshot, index: number, cell: number, crew: Crew): Promise<HeightMap> {
    const earlier = snapshot.steps.slice(0, index);
    const known = earlier.findLastIndex(
      ({ step, key }) =>
        (this.finer?.key === key && this.finer.cell === cell) || this.held.get(step.id)?.steel.after.cell === cell,
    );
    const at = earlier[known];
    let steel = at
      ? this.finer?.key === at.key
        ? this.finer.steel
        : this.held.get(at.step.id)!.steel.after
      : snapshot.piece.steelOn(cell);
    for (const { step } of earlier.slice(known + 1)) steel = await steelAfter(this.held.get(step.id)!, steel, crew);
    return steel;
  }

  /** Keeps a result if the job as it is asks for it; gives whether it does. */
  private hold(result: StepResult): boolean {
    const at = this.present?.step(result.stepId);
    if (at?.key !== result.key) return false;
    const old = this.held.get(result.stepId);
    if (old) this.putAside(old);
    this.held.set(result.stepId, retimed(result, this.present!, at));
    return true;
  }

  /** Looks after the result of a step that was changed: times follow feeds, and what was put aside comes back by its key. */
  private keepUp(at: SnapshotStep): void {
    const { id } = at.step;
    const old = this.held.get(id);
    const result = old?.key === at.key ? old : this.aside.find((r) => r.stepId === id && r.key === at.key);
    if (!result) return;
    if (old && result !== old) this.putAside(old);
    this.aside = this.aside.filter((r) => r !== result);
    this.held.set(id, retimed(result, this.present!, at));
  }

  private putAside(result: StepResult): void {
    this.held.delete(result.stepId);
    this.aside = [result, ...this.aside].slice(0, MOST_ASIDE);
  }

  /** The result before a step; none for the first. @throws EsquisseError `job-invalid` when it is not up to date */
  private resultBefore({ steps }: Snapshot, index: number): StepResult | undefined {
    const before = steps[index - 1];
    if (!before) return undefined;
    const result = this.held.get(before.step.id);
    if (result?.key !== before.key)
      throw new EsquisseError('job-invalid', `"${before.step.name}" before it is not up to date.`, 'steps');
    return result;
  }

  private known(stepId: string): StepResult {
    const result = this.held.get(stepId);
    if (!result) throw new EsquisseError('job-invalid', 'This step is not calculated.', stepId);
    return result;
  }

  /** Steel after motion `motion` of a step: from the nearest mark before. */
  steelAt(stepId: string, motion: number): HeightMap {
    const { path, steel, body } = this.known(stepId);
    if (motion >= path.x.length - 1) return steel.after;
    const map = copyMap(steel.before);
    for (const band of steel.history) {
      const from = restoreBand(map, band, motion);
      machineBand(map, band.rows, unwatched(body), path, [Math.max(1, from), motion + 1]);
    }
    return map;
  }

  /**
   * The steel of a window at a moment, run again from the blank on cells of another size: the loupe. What a coarse map
   * cannot tell, such as the ridges between two passes, shows there.
   *
   * @param window in plan view, in the frame of the work zero, mm; what reaches beyond the blank is left off
   * @throws EsquisseError `job-invalid` when a step up to there is not calculated, `memory` for too many cells
   */
  loupe(stepId: string, motion: number, window: Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>, cell: number): HeightMap {
    const { piece, steps } = this.snapshot;
    const map = finerWindow(piece.steel, window, cell, piece.top);
    for (const { step } of steps) {
      const { path, body } = this.known(step.id);
      const end = step.id === stepId ? Math.min(motion + 1, path.x.length) : path.x.length;
      machineBand(map, [0, map.ny], unwatched(body), path, [1, end]);
      if (step.id === stepId) break;
    }
    return map;
  }

  /** Steel above the part along its normal for a state of the steel after a step, mm. */
  leftoverAt(stepId: string, steel: HeightMap, crew: Crew, onDone?: (share: number) => void): Promise<Float32Array> {
    const { after, leftover } = this.known(stepId).steel;
    return leftoverOn(this.snapshot.piece, steel, crew, { heights: after.heights, leftover }, onDone);
  }

  /** The same for the steel that the work begins with. */
  async leftoverOfBlank(crew: Crew, onDone?: (share: number) => void): Promise<Float32Array> {
    const { piece } = this.snapshot;
    const { steel } = piece;
    if (this.blankLeftover?.steel === steel) return this.blankLeftover.field;
    const field = await leftoverOn(piece, steel, crew, undefined, onDone);
    this.blankLeftover = { steel, field };
    return field;
  }

  /**
   * Where a step would cut, of kinds that look for that themselves; undefined for others.
   *
   * @throws EsquisseError when the step before is not up to date, or the values lead nowhere
   */
  async regionOf(
    stepId: string,
    crew: Crew,
    onProgress: (share: number) => void = () => undefined,
  ): Promise<RestRegion | undefined> {
    const { snapshot } = this;
    const at = snapshot.step(stepId);
    if (!at?.bound.region) return undefined;
    const before = this.resultBefore(snapshot, at.index);
    return at.bound.region(contextOf(snapshot, at, before, crew, onProgress));
  }

  /** What a step will come to, before it is calculated; undefined where that cannot be told. */
  async expected(stepId: string, crew: Crew): Promise<ExpectedStep | undefined> {
    const { snapshot } = this;
    const at = snapshot.step(stepId);
    if (!at?.bound.expect || at.problem) return undefined;
    const before = snapshot.steps[at.index - 1];
    const kept = before && this.isFresh(before.step.id) ? this.held.get(before.step.id) : undefined;
    const steel = before ? kept && { map: kept.next.after, key: kept.key } : { map: snapshot.piece.steel, key: '' };
    return this.expectations.of(snapshot.piece, at, steel, crew);
  }

  /** How far a step's cutter has to stand out over each place of the part, with the room that its holder keeps, mm. */
  async standOut(stepId: string, crew: Crew, onDone: (share: number) => void): Promise<StandOut> {
    const at = this.snapshot.step(stepId);
    if (!at) throw new EsquisseError('job-invalid', 'This step is off, or has no cutter.', stepId);
    return standOutOver(this.snapshot.piece, at, crew, onDone);
  }

  /** Ridges of a step that is up to date, as they are seen from above. @throws EsquisseError when it has none to be measured */
  async ridges(stepId: string, crew: Crew, onDone: (share: number) => void): Promise<RidgeField> {
    const at = this.snapshot.step(stepId);
    const result = this.results.get(stepId);
    if (!at || !result || !this.isFresh(stepId))
      throw new EsquisseError('job-invalid', 'Ridges are measured once the step is calculated.', stepId);
    const found = await ridgeField(this.snapshot.piece, at, result, crew, onDone);
    if (!found) throw new EsquisseError('job-invalid', 'Ridges are measured where a ball finishes in passes.', stepId);
    return found;
  }

  /** The largest load at which a step took steel over each cell of a map, up to a motion. @throws EsquisseError when it is not up to date */
  loadField(stepId: string, map: HeightMap, motion: number, quantity: LoadQuantity): Float32Array {
    const at = this.snapshot.step(stepId);
    if (!at || !this.isFresh(stepId))
      throw new EsquisseError('job-invalid', 'The load is told once the step is calculated.', stepId);
    return loadField(this.snapshot, at, this.known(stepId), map, motion, quantity);
  }

  /** A step that is up to date beside its rival kind. @throws EsquisseError when it is not, or has none */
  async rivals(stepId: string, crew: Crew, onDone: (share: number) => void): Promise<Rivals> {
    const { snapshot } = this;
    const at = snapshot.step(stepId);
    if (!at || !this.isFresh(stepId))
      throw new EsquisseError('job-invalid', 'Kinds are compared once the step is calculated.', stepId);
    const before = this.resultBefore(snapshot, at.index);
    const found = await compareRivals(snapshot, at, this.known(stepId), before, crew, onDone);
    if (!found) throw new EsquisseError('job-invalid', 'There is no other kind that does the same.', stepId);
    return found;
  }

  /** What other cutters and patterns would do in a finishing step. @throws EsquisseError for a step of another kind */
  async finishers(stepId: string, crew: Crew, onDone: (share: number) => void): Promise<Finishers> {
    const { snapshot } = this;
    const at = snapshot.step(stepId);
    if (!at?.kind.isCompared)
      throw new EsquisseError('job-invalid', 'Cutters are compared for steps that finish in passes.', stepId);
    return compareFinishers(snapshot, at, this.expectations, crew, onDone);
  }

  /**
   * What each cutter of the crib that mills would take of the steel before place `place` of the workplan, first roughly, then
   * on more and more cells; `tell` gets all rows each time.
   *
   * @param allowance left by the step to come, mm
   * @param threshold steel above the allowance that counts, mm; null: what is surely left
   */
  async nextCutters(
    place: number,
    allowance: number,
    threshold: number | null,
    crew: Crew,
    tell: (rows: CutterRow[], isLast: boolean) => void,
    onProgress: (share: number) => void = () => undefined,
  ): Promise<void> {
    const { snapshot } = this;
    const { piece, job, steps } = snapshot;
    const index = steps.filter((s) => s.number <= place).length;
    const before = this.resultBefore(snapshot, index);
    const stock = before?.next.after ?? piece.steel;
    const leftover = before?.next.leftover ?? (await this.leftoverOfBlank(crew));
    const tolerance = Math.max(0, ...steps.slice(0, index).map((s) => s.bound.tolerance));
    await tryCutters(
      piece.part,
      toolsOf(job.crib),
      { stock, leftover, allowance, threshold: threshold ?? leastThreshold(stock.cell, 2 * tolerance) },
      crew,
      tell,
      onProgress,
    );
  }
}

/** An error with the step that it is about. */
function errorOfStep(error: unknown, stepId: string, { job, piece }: Snapshot): EsquisseError {
  if (!(error instanceof EsquisseError))
    return new EsquisseError('job-invalid', `Unexpected: ${messageOf(error)}`, undefined, stepId);
  const doubt = error.code === 'step-impossible' && job.part && sizeDoubt(job.part, piece.part.box);
  const message = doubt ? `${error.message} ${doubt.sentence}` : error.message;
  return new EsquisseError(error.code, message, error.place, stepId);
}
