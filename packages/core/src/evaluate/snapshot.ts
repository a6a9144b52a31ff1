import { BUILD } from '../base/build';
import { Fingerprint } from '../base/fingerprint';
import type { Limit } from '../field/bounds';
import type { FaceLimits } from '../field/faceLimits';
import type { ContactMesh } from '../geometry/contactMesh';
import { isPlanLimit, type Job, type Step, stepsOn } from '../job/job';
import { type RelationProblem, relationProblems } from '../job/relations';
import { roomOf, type TravelRoom } from '../link/stepTravel';
import { RAW_MM } from '../link/travel';
import { houseCoolant } from '../load/coolant';
import type { Coolant } from '../tool/coolants';
import { loadKey } from '../load/loadAlong';
import type { CuttingFigures } from '../load/stepCutting';
import { stepCutting } from '../job/following';
import { type BoundStep, type StepKind } from '../strategy/kind';
import { kindOf } from '../strategy/registry';
import { type Tool, toolOf } from '../tool/library';
import { shapeInCrib, shapeOf, type ToolShape } from '../tool/shape';
import type { Piece } from './piece';

/** While a step is planned the tool crosses this far above any height at which a link or entry begins, mm. */
const PLANNED_CROSSING_MM = 1;

/** A step of a snapshot, with all that its stages read and the keys that stand for it. */
export interface SnapshotStep {
  /** Its place among the steps that are on. */
  readonly index: number;
  /** Its place in the plan, from 1, as people count. */
  readonly number: number;
  readonly step: Step;
  readonly kind: StepKind;
  readonly bound: BoundStep;
  readonly tool: Tool;
  readonly shape: ToolShape;
  /** Shapes of the assemblies that the step's values name, by their ids. */
  readonly named: ReadonlyMap<string, ToolShape>;
  readonly limits: readonly Limit[];
  /** The part as it has to be left: with what stays besides on picked faces. */
  readonly part: ContactMesh;
  /** Faces of the part by which it is held; undefined when it is not. */
  readonly faces: FaceLimits | undefined;
  readonly room: TravelRoom;
  /** A value of it, or of its cutter, whose relation gives nothing in range: it cannot be calculated. */
  readonly problem: RelationProblem | undefined;
  readonly toleranceBefore: number;
  readonly promisedBefore: number;
  /** What planning and machining read: equal keys stand for equal paths, steel and findings. */
  readonly key: string;
  readonly cutting: CuttingFigures;
  readonly coolant: Coolant;
  /** Height at which the tool crosses while the step is planned, and in the program, mm. */
  readonly plannedSafeZ: number;
  readonly safeZ: number;
  /** What feeds, crossing height, times and load read beside that. */
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
}

function stepsOf(job: Job, piece: Piece): SnapshotStep[] {
  const steps: SnapshotStep[] = [];
  const { machine, safeHeight } = job.setup;
  const problems = relationProblems(job);
  let steel = keyOf(BUILD, piece.key);
  let toleranceBefore = 0;
  let promisedBefore = 0;
  for (const step of stepsOn(job)) {
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
    const limits = step.limits.filter(isPlanLimit).map((limit) => piece.inWorkZero(limit));
    const held = piece.heldByFaces(step.limits);
    // what earlier steps promise and their tolerances follow from their values, which the steel's key holds
    const room = roomOf(step.travel);
    const owners = [step.id, tool.assembly.id, tool.cutter.id];
    const problem = problems.find((p) => owners.includes(p.ownerId)) ?? faceProblem(step, kind, held.lost);
    const key = keyOf(steel, step.kind, step.values, step.limits, room, problem ?? null, shape, [...named.values()]);
    const cutting = stepCutting(job, step, tool);
    const coolant = step.coolant ?? houseCoolant(job.material, tool.cutter.grade);
    const plannedSafeZ = piece.highest + Math.max(RAW_MM, room.approach) + PLANNED_CROSSING_MM;
    const safeZ = piece.highest + (step.travel.crossing ?? safeHeight);
    const { vf, entry, plunge, link, back } = cutting;
    const timesKey = keyOf(
      key,
      [vf, entry, plunge, link, back],
      machine.rapid,
      machine.acceleration,
      machine.rounding,
      machine.timeFactor,
      safeZ,
      [step.cutting.even, machine.maxFeed],
      loadKey({ n: cutting.n, tool, material: job.material, machine }),
    );
    steps.push({
      index: steps.length,
      number: job.steps.indexOf(step) + 1,
      step,
      kind,
      bound,
      tool,
      shape,
      named,
      limits,
      part: held.part,
      faces: held.faces,
      room,
      problem,
      toleranceBefore,
      promisedBefore,
      key,
      cutting,
      coolant,
      plannedSafeZ,
      safeZ,
      timesKey,
    });
    steel = key;
    toleranceBefore = Math.max(toleranceBefore, bound.tolerance);
    if (bound.stairs !== undefined) promisedBefore = Math.max(promisedBefore, bound.leaves.most + bound.stairs);
  }
  return steps;
}

/** What is wrong with the faces that a step is held by. @param lost number of picks that the part does not have, by limit */
function faceProblem(step: Step, kind: StepKind, lost: readonly number[]): RelationProblem | undefined {
  const tell = (k: number, message: string): RelationProblem => ({
    ownerId: step.id,
    key: `limits.${k}.faces`,
    message,
  });
  for (const [k, limit] of step.limits.entries()) {
    if (isPlanLimit(limit)) continue;
    if (limit.faces.length === 0) return tell(k, 'No face is picked yet: pick them, or remove this limit.');
    if (lost[k]! > 0)
      return tell(
        k,
        `${lost[k] === 1 ? 'One of the picked faces is' : `${lost[k]} of the picked faces are`} not on this part: pick again.`,
      );
    if (limit.kind === 'faces' && !kind.byFaces)
      return tell(k, `${kind.name} cannot be held to faces: use an outline, or remove this limit.`);
  }
  return undefined;
}

const keyOf = (...parts: unknown[]): string => new Fingerprint().add(JSON.stringify(parts)).toString();
