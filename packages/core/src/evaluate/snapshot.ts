import { BUILD } from '../base/build';
import { Fingerprint } from '../base/fingerprint';
import type { Limit } from '../field/bounds';
import type { Job, Step } from '../job/job';
import { RAW_MM } from '../link/travel';
import { type Feeds, feedsOf } from '../load/feeds';
import { type BoundStep, type StepKind } from '../strategy/kind';
import { kindOf } from '../strategy/registry';
import { type Tool, toolOf } from '../tool/library';
import { shapeInCrib, shapeOf, type ToolShape } from '../tool/shape';
import type { Piece } from './piece';

/** While steps are planned the tool crosses this far above steel and fixtures, mm: higher than any link or entry begins. */
const PLANNED_CROSSING_MM = RAW_MM + 1;

/** A step of a snapshot, with all that its stages read and the keys that stand for it. */
export interface SnapshotStep {
  readonly index: number;
  readonly step: Step;
  readonly kind: StepKind;
  readonly bound: BoundStep;
  readonly tool: Tool;
  readonly shape: ToolShape;
  /** Shapes of the assemblies that the step's values name, by their ids. */
  readonly named: ReadonlyMap<string, ToolShape>;
  readonly limits: readonly Limit[];
  readonly toleranceBefore: number;
  readonly promisedBefore: number;
  /** What planning and machining read: equal keys stand for equal paths, steel and findings. */
  readonly key: string;
  readonly feeds: Feeds;
  /** What feeds, crossing height and times read beside that. */
  readonly timesKey: string;
}

/**
 * A job with its piece as they were at one moment. Nothing in it ever changes, so work on it is work on that very job,
 * whatever is edited meanwhile; its keys are worked out once.
 */
export class Snapshot {
  readonly steps: readonly SnapshotStep[];

  constructor(
    readonly job: Job,
    readonly piece: Piece,
  ) {
    this.steps = piece.problem ? [] : stepsOf(job, piece);
  }

  step(stepId: string): SnapshotStep | undefined {
    return this.steps.find((s) => s.step.id === stepId);
  }

  /** Height at which tools cross while steps are planned, mm. */
  get plannedSafeZ(): number {
    return this.piece.highest + PLANNED_CROSSING_MM;
  }

  /** Height at which tools cross in the program, mm. */
  get safeZ(): number {
    return this.piece.highest + this.job.setup.safeHeight;
  }
}

function stepsOf(job: Job, piece: Piece): SnapshotStep[] {
  const steps: SnapshotStep[] = [];
  const { machine, safeHeight } = job.setup;
  let steel = keyOf(BUILD, piece.key);
  let toleranceBefore = 0;
  let promisedBefore = 0;
  for (const [index, step] of job.steps.entries()) {
    const kind = kindOf(step.kind);
    const tool = toolOf(job.crib, step.assemblyId);
    // a job is read with its kinds and cutters looked up, so there is no step without them
    if (!kind || !tool) return steps;
    const bound = kind.bind(step.values);
    const shape = shapeOf(tool);
    const named = new Map<string, ToolShape>();
    for (const field of kind.fields) {
      const id = step.values[field.key];
      const other = field.assembly && typeof id === 'string' ? shapeInCrib(job.crib, id) : undefined;
      if (other) named.set(String(id), other);
    }
    const limits = step.limits.map((limit) => piece.inWorkZero(limit));
    // what earlier steps promise and their tolerances follow from their values, which the steel's key holds
    const key = keyOf(steel, step.kind, step.values, step.limits, shape, [...named.values()]);
    const feeds = feedsOf(tool);
    const timesKey = keyOf(key, feeds, machine.rapid, machine.acceleration, safeHeight);
    steps.push({
      index,
      step,
      kind,
      bound,
      tool,
      shape,
      named,
      limits,
      toleranceBefore,
      promisedBefore,
      key,
      feeds,
      timesKey,
    });
    steel = key;
    toleranceBefore = Math.max(toleranceBefore, bound.tolerance);
    if (bound.stairs !== undefined) promisedBefore = Math.max(promisedBefore, bound.leaves.most + bound.stairs);
  }
  return steps;
}

const keyOf = (...parts: unknown[]): string => new Fingerprint().add(JSON.stringify(parts)).toString();
