import type { Job } from '../job/job';
import type { StepResult } from '../evaluate/result';
import type { SnapshotStep } from '../evaluate/snapshot';
import { Motion } from '../path/toolpath';
import { type ControlResult, HOME_Z } from '../post/control';
import type { Modes } from '../post/recorder';
import { COOLANT_WORDS } from '../tool/coolants';
import type { PostDefinition } from '../post/definition';
import type { Comparison, Fault } from './compare';

/** Feeds and speeds are compared with what the machine can with this slack: single precision. */
const SLACK = 1 + 1e-6;

/** One line of the check list: what was looked at, and whether it holds. */
export interface Verdict {
  readonly id: 'findings' | 'words' | 'motions' | 'modes' | 'machine' | 'steel' | 'part';
  readonly title: string;
  readonly ok: boolean;
  readonly text: string;
  /** Where it fails: a place in the setup (mm), a line of the program, or a step. */
  readonly at?: {
    readonly x?: number;
    readonly y?: number;
    readonly z?: number;
    readonly line?: number;
    readonly stepId?: string;
  };
}

/** A step as it is posted. */
export interface PostedStep {
  readonly at: SnapshotStep;
  readonly result: StepResult;
}

/** A verdict that says yes with `yes`, or no at the fault. */
export function verdict(
  id: Verdict['id'],
  title: string,
  steps: readonly PostedStep[],
  fault: Fault | undefined,
  yes: string,
): Verdict {
  if (!fault) return { id, title, ok: true, text: yes };
  const step = fault.stepIndex === undefined ? undefined : steps[fault.stepIndex]?.at.step;
  const where = [step ? `Step ${steps[fault.stepIndex!]!.at.number}` : '', fault.line > 0 ? `line ${fault.line}` : '']
    .filter(Boolean)
    .join(', ');
  return {
    id,
    title,
    ok: false,
    text: where ? `${where}: ${fault.text}` : fault.text,
    at: { ...(fault.line > 0 ? { line: fault.line } : {}), ...(step ? { stepId: step.id } : {}) },
  };
}

/** Whether the steps themselves found anything that must not happen. */
export function findingsVerdict(steps: readonly PostedStep[]): Verdict {
  const title = 'Nothing but the edges touches steel';
  for (const { at, result } of steps) {
    const finding = result.figures.findings[0];
    if (!finding) continue;
    const { x, y, z } = result.path;
    const m = finding.motion;
    return {
      id: 'findings',
      title,
      ok: false,
      text: `Step ${at.number}: ${finding.text}`,
      at: { x: x[m]!, y: y[m]!, z: z[m]!, stepId: at.step.id },
    };
  }
  return { id: 'findings', title, ok: true, text: 'No gouge, no contact of shank or holder, no rapid through steel.' };
}

/** Whether every word is understood, and nothing is left to the state that the control happens to be in. */
export function wordsFault({ complaints, unsaid }: ControlResult): Fault | undefined {
  const first = complaints[0];
  if (first)
    return {
      text: complaints.length > 1 ? `${first.text} (and ${complaints.length - 1} more)` : first.text,
      line: first.line,
    };
  return unsaid.length > 0 ? { text: `The program does not say: ${unsaid.join('; ')}.`, line: 0 } : undefined;
}

/** Whether cutter, offsets, plane, spindle and coolant are those of the plan during every motion, and rest where they must. */
export function modesFault(
  job: Job,
  steps: readonly PostedStep[],
  control: ControlResult,
  { stepOf }: Comparison,
  post: PostDefinition,
): Fault | undefined {
  for (const change of control.changes) {
    const fault = changeFault(change);
    if (fault) return { text: fault, line: change.line };
  }
  for (const [r, run] of control.runs.entries())
    for (let i = 0; i < run.lines.length; i++) {
      const s = stepOf[r]![i]!;
      if (s < 0) continue;
      const isFed = run.path.kind[i] !== Motion.rapid;
      const fault = modeFault(job, steps[s]!.at, post, run.tool, run.modes[i]!, isFed);
      if (fault) return { text: fault, line: run.lines[i]!, stepIndex: s };
    }
  const { spindle, coolant } = control.atEnd;
  if (spindle !== 'stopped') return { text: 'The spindle still turns when the program ends (M5 is missing).', line: 0 };
  if (coolant.length > 0) return { text: 'The coolant still runs when the program ends (M9 is missing).', line: 0 };
  return undefined;
}

function changeFault({ tool, isHome, modes }: ControlResult['changes'][number]): string | undefined {
  if (!isHome) return `T${tool} is changed in before the spindle went up to where cutters are changed.`;
  if (modes.spindle !== 'stopped') return `T${tool} is changed in while the spindle turns (M5 is missing before it).`;
  if (modes.coolant.length > 0) return `T${tool} is changed in while the coolant runs (M9 is missing before it).`;
  return undefined;
}

function modeFault(
  job: Job,
  { tool: { assembly }, cutting, coolant }: SnapshotStep,
  post: PostDefinition,
  tool: number,
  modes: Modes,
  isFed: boolean,
): string | undefined {
  if (tool !== assembly.number) return `T${tool} is in the spindle, the plan cuts with T${assembly.number}.`;
  const offset = assembly.lengthOffset ?? assembly.number;
  if (modes.lengthOffset !== offset)
    return modes.lengthOffset === undefined
      ? `T${tool} moves without its length offset (G43 H${offset}).`
      : `T${tool} moves with the length offset H${modes.lengthOffset}; its own is H${offset}.`;
  const named = modes.workOffset === undefined ? 'none' : `G${modes.workOffset}`;
  if (named !== job.setup.workOffset) return `The work offset is ${named}, the setup's is ${job.setup.workOffset}.`;
  if (modes.plane !== 17) return `The plane is G${modes.plane}, the plan's is G17.`;
  if (!isFed) return undefined;
  if (modes.spindle !== 'forward')
    return modes.spindle === 'stopped' ? 'The spindle stands still.' : 'The spindle turns backward (M4).';
  if (modes.n !== Math.round(cutting.n))
    return `The spindle turns ${modes.n} 1/min, the plan says ${Math.round(cutting.n)}.`;
  const word = coolant === 'none' ? undefined : post.coolant[coolant];
  const wanted = word === undefined || word === null ? '' : word;
  if (modes.coolant.join(' ') !== wanted)
    return modes.coolant.length === 0
      ? `The coolant does not run; the plan says ${COOLANT_WORDS[coolant]}.`
      : `The coolant runs by ${modes.coolant.join(' ')}; the plan says ${COOLANT_WORDS[coolant]}.`;
  return undefined;
}

/** Whether speeds, feeds and ways that the text says are within what the machine turns, feeds and travels. */
export function machineFault({ setup: { machine } }: Job, { runs }: ControlResult): Fault | undefined {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { path, lines, modes, tool } of runs)
    for (let i = 0; i < lines.length; i++) {
      const line = lines[i]!;
      const { n } = modes[i]!;
      if (path.kind[i] !== Motion.rapid) {
        if (n > machine.maxSpindle || n < machine.minSpindle)
          return {
            text: `T${tool} turns ${n} 1/min, ${machine.name} from ${machine.minSpindle} to ${machine.maxSpindle}.`,
            line,
          };
        if (path.feed[i]! > machine.maxFeed * SLACK)
          return {
            text: `It feeds ${Math.round(path.feed[i]!)} mm/min, ${machine.name} at most ${machine.maxFeed} mm/min.`,
            line,
          };
      }
      // where the reference height lies above the work is the machine's affair
      if (path.z[i] === HOME_Z) continue;
      for (const [k, v] of [path.x[i]!, path.y[i]!, path.z[i]!].entries()) {
        low[k] = Math.min(low[k]!, v);
        high[k] = Math.max(high[k]!, v);
      }
    }
  for (const [k, axis] of (['X', 'Y', 'Z'] as const).entries()) {
    const way = high[k]! - low[k]!;
    const travel = machine[`travel${axis}`];
    if (way > travel)
      return {
        text: `The program reaches over ${way.toFixed(1)} mm in ${axis}, ${machine.name} travels ${travel} mm.`,
        line: 0,
      };
  }
  return undefined;
}
