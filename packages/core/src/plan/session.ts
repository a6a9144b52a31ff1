import {
  clampingStack,
  cutterProfile,
  holderProfile,
  shankProfile,
  type Tool,
  toolOf,
  toolsOf,
} from '../cutter/library';
import { EsquisseError } from '../errors';
import type { Box } from '../geometry/box';
import { sharedFloat32 } from '../geometry/shared';
import { timesOf } from '../path/times';
import type { Toolpath } from '../path/toolpath';
import { copyMap, finerWindow, type HeightMap } from '../stock/heightMap';
import { leftoverFigures } from '../stock/leftover';
import { type BandHistory, restoreBand } from '../stock/history';
import { type Body, machineBand } from '../stock/machining';
import { leastThreshold, type RestRegion } from '../stock/restRegion';
import { TILE } from '../stock/sweep';
import { kindOf } from '../strategy/registry';
import type { LeftOut, StepContext } from '../strategy/kind';
import { type Crew, spansOf, together } from './crew';
import { Fingerprint } from './fingerprint';
import { type CutterRow, tryCutters } from './nextCutters';
import { findingsOf, joinBands, runFigures, type StepFigures } from './findings';
import type { Job, Step } from './job';
import { PreparedPiece } from './preparedPiece';

/** Bands of rows that the stock is divided into, whatever the number of workers: results stay the same to the bit. */
const BANDS = 12;
/** The stock's state is kept before every so many motions of a step, so that any motion is near one. */
const MARK_EVERY = 300;
/** Raised whenever the same values come to lead to other paths: kept ones are then not taken for them. */
const PATHS = 6;
/** Gouges are counted beyond this share of a step's tolerance and this floor, mm. */
const GOUGE_MM = 0.01;

/** Everything worked out for a step. */
export interface StepResult {
  stepId: string;
  fingerprint: string;
  tool: Tool;
  body: Body;
  path: Toolpath;
  /** Time at the end of each motion, s from the step's start. */
  times: Float64Array;
  /** Volume taken off by each motion, mm³. */
  removed: Float32Array;
  before: HeightMap;
  after: HeightMap;
  /** The stock on the way, band by band. */
  history: BandHistory[];
  /** Steel left after the step, along the part's normal, mm. */
  leftover: Float32Array;
  figures: StepFigures;
}

/** Keeps worked-out paths between visits. */
export interface PathCache {
  get(fingerprint: string): Promise<{ path: Toolpath; leftOut: LeftOut[] } | undefined>;
  put(fingerprint: string, plan: { path: Toolpath; leftOut: LeftOut[] }): Promise<void>;
}

export interface Progress {
  stepId: string;
  what: string;
  /** 0 to 1. */
  share: number;
}

/**
 * Works out a job's steps on its part, one after another, each from the steel that the one before left; keeps what is
 * still valid. All geometry is in the frame of the work zero, mm.
 */
export class PlanSession {
  readonly results = new Map<string, StepResult>();
  /** What is machined, out of what, and what holds it. */
  readonly piece = new PreparedPiece();
  private blockLeftover?: { block: HeightMap; field: Float32Array };

  constructor(private readonly cache?: PathCache) {}

  /** Fingerprint that each step's result would have now, by the steps' order. */
  fingerprints(job: Job): string[] {
    const out: string[] = [];
    let before = new Fingerprint().add(`${PATHS} ${this.piece.key}`).toString();
    for (const step of job.steps) {
      const tool = toolOf(job.crib, step.assemblyId);
      before = new Fingerprint()
        .add(before)
        .add(
          JSON.stringify([
            step.kind,
            step.values,
            step.limits,
            cutBy(tool),
            namedIn(job, step),
            job.setup.safeHeight,
            job.setup.machine,
          ]),
        )
        .toString();
      out.push(before);
    }
    return out;
  }

  /** Whether a step's result holds for the job as it is. */
  isFresh(job: Job, index: number): boolean {
    const step = job.steps[index];
    return !!step && this.results.get(step.id)?.fingerprint === this.fingerprints(job)[index];
  }

  /** Last step up to which every path is kept from an earlier visit or still fresh; -1 for none. */
  async keptThrough(job: Job): Promise<number> {
    const prints = this.fingerprints(job);
    for (let k = 0; k < prints.length; k++)
      if (!this.isFresh(job, k) && !(await this.cache?.get(prints[k]!))) return k - 1;
    return prints.length - 1;
  }

  /**
   * Works out steps 0 to `last` (all when left out) that are not fresh.
   *
   * @throws EsquisseError `cancelled`, or what keeps a step from being worked out; earlier steps' results stay
   */
  async evaluate(job: Job, crew: Crew, onProgress: (p: Progress) => void, last = job.steps.length - 1): Promise<void> {
    this.piece.refuseProblem();
    const prints = this.fingerprints(job);
    for (let k = 0; k <= last; k++) {
      const step = job.steps[k]!;
      if (this.results.get(step.id)?.fingerprint === prints[k]) continue;
      const before = k === 0 ? undefined : this.results.get(job.steps[k - 1]!.id);
      const result = await this.step(job, step, prints[k]!, before, crew, onProgress);
      this.results.set(step.id, result);
    }
    const known = new Set(job.steps.map((s) => s.id));
    for (const id of this.results.keys()) if (!known.has(id)) this.results.delete(id);
  }

  /** Steel after motion `motion` of a step: from the nearest mark before. */
  steelAt(stepId: string, motion: number): HeightMap {
    const result = this.results.get(stepId);
    if (!result) throw new EsquisseError('job-invalid', 'This step is not worked out.', stepId);
    if (motion >= result.path.x.length - 1) return result.after;
    const map = copyMap(result.before);
    const body = { ...result.body, shank: [], holder: [] };
    for (const band of result.history) {
      const from = restoreBand(map, band, motion);
      machineBand(map, band.rows, body, result.path, [Math.max(1, from), motion + 1]);
    }
    return map;
  }

  /**
   * The steel of a window at a moment, run again from the full block on cells of another size: the loupe. What a coarse map
   * cannot tell, such as the ridges between two passes, shows there.
   *
   * @param window in plan, in the frame of the work zero, mm; what reaches beyond the block is left off
   * @throws EsquisseError `job-invalid` when a step up to there is not worked out, `memory` for too many cells
   */
  loupe(
    job: Job,
    stepId: string,
    motion: number,
    window: Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>,
    cell: number,
  ): HeightMap {
    const map = finerWindow(this.piece.fullBlock, window, cell, this.piece.topOfBlock());
    for (const step of job.steps) {
      const result = this.results.get(step.id);
      if (!result) throw new EsquisseError('job-invalid', `"${step.name}" is not worked out.`, step.id);
      const end = step.id === stepId ? Math.min(motion + 1, result.path.x.length) : result.path.x.length;
      const body = { ...result.body, shank: [], holder: [] };
      machineBand(map, [0, map.ny], body, result.path, [1, end]);
      if (step.id === stepId) break;
    }
    return map;
  }

  /** Steel above the part along its normal for any state of the stock, mm. */
  async leftoverOf(
    map: HeightMap,
    crew: Crew,
    like?: { heights: Float32Array; leftover: Float32Array },
  ): Promise<Float32Array> {
    const partMap = this.piece.partTops;
    const out = sharedFloat32(map.heights.length);
    await crew.all(
      'leftover',
      spansOf(map.ny, 4 * BANDS).map((rows) => ({
        part: this.piece.machinedPart,
        partMap,
        stock: map,
        out,
        before: like,
        rows,
      })),
    );
    return out;
  }

  async leftoverOfBlock(crew: Crew): Promise<Float32Array> {
    const block = this.piece.fullBlock;
    if (this.blockLeftover?.block !== block) this.blockLeftover = { block, field: await this.leftoverOf(block, crew) };
    return this.blockLeftover.field;
  }

  private async step(
    job: Job,
    step: Step,
    fingerprint: string,
    earlier: StepResult | undefined,
    crew: Crew,
    onProgress: (p: Progress) => void,
  ): Promise<StepResult> {
    const started = Date.now();
    const tool = toolOf(job.crib, step.assemblyId);
    const kind = kindOf(step.kind);
    if (!tool || !kind)
      throw new EsquisseError('job-invalid', `Step "${step.name}" lacks its cutter or kind.`, step.id);
    const before = earlier?.after ?? this.piece.fullBlock;
    const tell = (what: string, from: number, to: number) => (share: number) =>
      onProgress({ stepId: step.id, what, share: from + (to - from) * share });
    tell('path', 0, 0.6)(0);
    const context = this.contextOf(job, step, tool, earlier, crew, tell('path', 0, 0.6));
    const kept = await this.cache?.get(fingerprint);
    const planned = kept ?? (await kind.plan(context, kind.schema.parse(step.values)));
    if (!kept) await this.cache?.put(fingerprint, planned);
    if (planned.path.x.length < 2)
      throw new EsquisseError('step-impossible', `"${step.name || kind.name}" finds nothing to cut here.`, step.id);
    const machined = await this.machine(planned.path, tool, before, crew, tell('steel', 0.6, 0.85));
    tell('checks', 0.85, 1)(0);
    // figures are reckoned here while the crew looks for leftovers and contacts
    const [{ leftover, figures }, gouges, held, { times, run }] = await together(
      this.leftoverOf(machined.after, crew, earlier && { heights: before.heights, leftover: earlier.leftover }).then(
        (field) => ({ leftover: field, figures: leftoverFigures(field) }),
      ),
      this.gouges(planned.path, tool, crew),
      this.fixtureContacts(planned.path, machined.body, crew),
      Promise.resolve().then(() => {
        const times = timesOf(planned.path, job.setup.machine);
        return { times, run: runFigures(planned.path, times, machined, tool.cutter.DC) };
      }),
    );
    return {
      stepId: step.id,
      fingerprint,
      tool,
      body: machined.body,
      path: planned.path,
      times,
      removed: machined.removed,
      before,
      after: machined.after,
      history: machined.history,
      leftover,
      figures: {
        seconds: (Date.now() - started) / 1000,
        time: times[times.length - 1]!,
        ...run,
        leftover: figures,
        neededStickOut: machined.neededStickOut,
        findings: findingsOf([...machined.mishaps, ...held], gouges),
        leftOut: planned.leftOut,
      },
    };
  }

  private contextOf(
    job: Job,
    step: Step,
    tool: Tool,
    earlier: StepResult | undefined,
    crew: Crew,
    progress: (share: number) => void,
  ): StepContext {
    return {
      part: this.piece.machinedPart,
      tool,
      stock: earlier?.after ?? this.piece.fullBlock,
      limits: step.limits.map((limit) => this.piece.inWorkZero(limit)),
      fixtures: this.piece.heldBy,
      drilled: this.piece.drilled,
      leftover: () => (earlier ? Promise.resolve(earlier.leftover) : this.leftoverOfBlock(crew)),
      leftoverOf: (map) => this.leftoverOf(map, crew),
      toleranceBefore: toleranceBefore(job, job.steps.indexOf(step)),
      promisedBefore: promisedBefore(job, job.steps.indexOf(step)),
      toolOf: (id) => toolOf(job.crib, id),
      safeZ: Math.max(this.piece.topOfBlock(), this.piece.heldBy?.box.maxZ ?? -Infinity) + job.setup.safeHeight,
      crew,
      progress,
    };
  }

  /** The result before a step; none for the first. @throws EsquisseError `job-invalid` when it is not worked out as the job is */
  private resultBefore(job: Job, index: number): StepResult | undefined {
    if (index <= 0) return undefined;
    if (!this.isFresh(job, index - 1))
      throw new EsquisseError('job-invalid', `"${job.steps[index - 1]!.name}" before it is not worked out.`, 'steps');
    return this.results.get(job.steps[index - 1]!.id);
  }

  /**
   * Where a step would cut, of kinds that look for that themselves; undefined for others.
   *
   * @throws EsquisseError when the step before is not worked out, or the values lead nowhere
   */
  async regionOf(job: Job, stepId: string, crew: Crew): Promise<RestRegion | undefined> {
    const index = job.steps.findIndex((s) => s.id === stepId);
    const step = job.steps[index];
    const kind = step && kindOf(step.kind);
    const tool = step && toolOf(job.crib, step.assemblyId);
    if (!kind?.region || !tool) return undefined;
    const context = this.contextOf(job, step, tool, this.resultBefore(job, index), crew, () => undefined);
    return kind.region(context, kind.schema.parse(step.values));
  }

  /**
   * What each cutter of the crib that mills would take of the steel before place `index` of the plan, first roughly, then
   * on more and more cells; `tell` gets all rows each time.
   *
   * @param allowance left by the step to come, mm
   * @param threshold steel above the allowance that counts, mm; null: what is surely left
   */
  async nextCutters(
    job: Job,
    index: number,
    allowance: number,
    threshold: number | null,
    crew: Crew,
    tell: (rows: CutterRow[], isLast: boolean) => void,
  ): Promise<void> {
    const before = this.resultBefore(job, index);
    const stock = before?.after ?? this.piece.fullBlock;
    const leftover = before?.leftover ?? (await this.leftoverOfBlock(crew));
    await tryCutters(
      this.piece.machinedPart,
      toolsOf(job.crib),
      {
        stock,
        leftover,
        allowance,
        threshold: threshold ?? leastThreshold(stock.cell, 2 * toleranceBefore(job, index)),
      },
      crew,
      tell,
    );
  }

  private async machine(path: Toolpath, tool: Tool, before: HeightMap, crew: Crew, progress: (share: number) => void) {
    const after = copyMap(before);
    const body = bodyOf(tool);
    const moves = path.x.length;
    const marks = Uint32Array.from({ length: Math.floor((moves - 1) / MARK_EVERY) }, (_, k) => (k + 1) * MARK_EVERY);
    const bands = await crew.all(
      'machine',
      spansOf(after.ny, BANDS, TILE).map((rows) => ({ map: after, rows, body, path, marks })),
      (done) => progress(done / BANDS),
    );
    return { after, body, history: bands.map((band) => band.history), ...joinBands(bands) };
  }

  private async fixtureContacts(path: Toolpath, body: Body, crew: Crew) {
    const fixtures = this.piece.heldBy;
    if (!fixtures) return [];
    const found = await crew.all(
      'fixtures',
      spansOf(path.x.length, 4 * BANDS).map((span) => ({ fixtures, body, path, span })),
    );
    return found.flat();
  }

  private async gouges(path: Toolpath, tool: Tool, crew: Crew) {
    const found = await crew.all(
      'gouges',
      spansOf(path.x.length, 4 * BANDS).map((span) => ({
        part: this.piece.machinedPart,
        piece: cutterProfile(tool.cutter),
        path,
        span,
        tolerance: GOUGE_MM,
      })),
    );
    return found.flat();
  }
}

/** Largest tolerance of the paths of the steps before place `index` of the plan, mm. */
function toleranceBefore(job: Job, index: number): number {
  return Math.max(0, ...job.steps.slice(0, Math.max(0, index)).map(({ values }) => Number(values['tolerance'] ?? 0)));
}

/** Steel that steps before place `index` of the plan leave on purpose at most: allowance and stairs, mm. */
function promisedBefore(job: Job, index: number): number {
  const promises = job.steps.slice(0, Math.max(0, index)).map((step) => {
    const kind = kindOf(step.kind);
    const values = kind?.schema.safeParse(step.values);
    return values?.success && kind?.stairs ? kind.leaves(values.data).most + kind.stairs(values.data) : 0;
  });
  return Math.max(0, ...promises);
}

/** Cutters that a step's values name beside its own. */
function namedIn(job: Job, step: Step) {
  const fields = kindOf(step.kind)?.fields.filter((f) => f.assembly) ?? [];
  return fields.map((f) => cutBy(toolOf(job.crib, String(step.values[f.key] ?? ''))));
}

/** What of a tool a result depends on. */
function cutBy(tool: Tool | undefined) {
  if (!tool) return undefined;
  const { stickOut, n, fz, number } = tool.assembly;
  return [tool.cutter, clampingStack(tool), stickOut, n, fz, number];
}

/** A tool as the watch over the steel wants it. */
export function bodyOf(tool: Tool): Body {
  return {
    piece: cutterProfile(tool.cutter),
    shank: shankProfile(tool),
    holder: holderProfile(tool, 0),
    stickOut: tool.assembly.stickOut,
    fluteLength: tool.cutter.APMX,
    centreCutting: tool.cutter.centreCutting,
  };
}
