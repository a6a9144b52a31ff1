import { EsquisseError } from '../base/errors';
import { edgesOf } from '../check/brokenEdge';
import { type Crew, spansOf } from '../crew/crew';
import { GOUGE_MM } from '../evaluate/calculate';
import type { Session } from '../evaluate/session';
import type { Snapshot } from '../evaluate/snapshot';
import { fixturesTask, gougesTask } from '../evaluate/tasks';
import { bodyOf } from '../simulate/body';
import { BANDS, runOver } from '../simulate/runOver';
import { runControl } from '../post/control';
import type { ControlRun } from '../post/recorder';
import { type PostDefinition, postOf } from '../post/definition';
import { COOLANT_WORDS } from '../tool/coolants';
import { type PostedStep as TextStep, writeProgram } from '../post/writer';
import type { Mishap } from '../simulate/body';
import { grown, type ProfilePiece } from '../tool/profile';
import { type Tool, toolsOf } from '../tool/library';
import { cuttingPiece, holderProfile, shankProfile, shapeOf } from '../tool/shape';
import { type Comparison, compareMotions, type Fault } from './compare';
import { SAME_STEEL_MM, worstDifference } from './sameSteel';
import { type ToolSetting, toolSettings } from './settings';
import {
  findingsVerdict,
  machineFault,
  modesFault,
  type PostedStep,
  type Verdict,
  verdict,
  wordsFault,
} from './verdicts';

/** Contacts of shank and holder with the part count beyond this, mm: they clear it by far more. */
const CLEAR_MM = 0.01;

/** A program with the verdicts on it. */
export interface Release {
  readonly text: string;
  readonly fileName: string;
  /** Line of each motion of each step, see {@link writeProgram}. */
  readonly lines: readonly Uint32Array[];
  readonly verdicts: readonly Verdict[];
  readonly ok: boolean;
  readonly tools: readonly ToolSetting[];
}

/**
 * Posts the calculated workplan and proves the text: it is read back, run on the simulated control, and everything that
 * matters of it is held against plan, machine, steel and part.
 *
 * @throws EsquisseError `step-impossible` when a step is not up to date
 */
export async function release(session: Session, crew: Crew, onProgress?: (share: number) => void): Promise<Release> {
  const { snapshot } = session;
  const steps = postedSteps(session, snapshot);
  const { job } = snapshot;
  const post = postOf(job.setup.post);
  const posted = writeProgram(
    { name: job.setup.name, number: job.setup.programNumber, workOffset: job.setup.workOffset },
    steps.map(asText),
    post,
  );
  const verdicts = await proveText(posted.text, snapshot, steps, post, crew, onProgress);
  return {
    text: posted.text,
    fileName: `program-${job.setup.name.replace(/[^A-Za-z0-9_.-]+/g, '-')}.${post.extension}`,
    lines: posted.lines,
    verdicts,
    ok: verdicts.every((v) => v.ok),
    tools: toolSettings(steps.map(({ at: { tool }, result: { path } }) => ({ tool, path }))),
  };
}

/** A step as the writer wants it. */
export function asText({ at, result }: PostedStep): TextStep {
  const { step, tool, cutting, coolant } = at;
  return { name: step.name, note: step.note, tool, n: cutting.n, coolant, path: result.path };
}

/** The steps of a snapshot with their results. @throws EsquisseError `step-impossible` when one is not up to date */
export function postedSteps(session: Session, snapshot: Snapshot): PostedStep[] {
  snapshot.piece.refuseProblem();
  const steps = snapshot.steps.map((at): PostedStep => {
    const result = session.results.get(at.step.id);
    if (result?.key !== at.key || result.timesKey !== at.timesKey)
      throw new EsquisseError('step-impossible', `Step ${at.number} "${at.step.name}" is not up to date.`, at.step.id);
    return { at, result };
  });
  if (steps.length === 0)
    throw new EsquisseError(
      'step-impossible',
      snapshot.job.steps.length > 0 ? 'All steps of the workplan are off.' : 'The workplan has no step yet.',
      'steps',
    );
  return steps;
}

/**
 * Proves a program against the plan that it is to be the text of.
 *
 * @param text the program, as it would go to the machine
 */
export async function proveText(
  text: string,
  snapshot: Snapshot,
  steps: readonly PostedStep[],
  post: PostDefinition,
  crew: Crew,
  onProgress: (share: number) => void = () => undefined,
): Promise<Verdict[]> {
  const { job } = snapshot;
  const control = runControl(text);
  const comparison = compareMotions(
    steps.map(({ at: { tool }, result }) => ({
      path: result.path,
      tool: tool.assembly.number,
      radiusOffset: tool.assembly.radiusOffset ?? tool.assembly.number,
    })),
    control.runs,
    post,
  );
  onProgress(0.1);
  const tools = new Map(toolsOf(job.crib).map((t) => [t.assembly.number, t]));
  const unknown = control.runs.find((run) => !tools.has(run.tool));
  const runs = control.runs.flatMap((run) => {
    const tool = tools.get(run.tool);
    return tool ? [{ run, tool }] : [];
  });
  const contacts = await partFault(snapshot, steps, control.runs, runs, comparison, crew);
  onProgress(0.5);
  const steel = await steelFaults(snapshot, steps, runs, crew, (share) => onProgress(0.5 + 0.5 * share));
  const blocks = text.split('\n').length - 1;
  const absent: Fault | undefined = unknown && {
    text: `The program calls T${unknown.tool}, which is not in the crib.`,
    line: unknown.lines[0]!,
  };
  return [
    findingsVerdict(steps),
    verdict('words', 'Every word is understood', steps, wordsFault(control), 'The text was read back word by word.'),
    verdict(
      'motions',
      'The control moves as planned',
      steps,
      comparison.fault ?? steel.mishap,
      `${comparison.compared} motions on ${blocks} lines; the largest deviation is ${comparison.worst.toFixed(4)} mm. Feeds are the plan's, nothing touches steel but the edges.`,
    ),
    verdict(
      'modes',
      'Cutters, offsets, speeds and coolant are as planned',
      steps,
      absent ?? modesFault(job, steps, control, comparison, post),
      `${control.changes.length} cutters, each changed in at the top, with its length offset, speed and coolant in ${job.setup.workOffset}.${byHand(steps, post)}`,
    ),
    verdict(
      'machine',
      'The machine can do it',
      steps,
      machineFault(job, control),
      'Speeds, feeds and ways in the text are within what the machine turns, feeds and travels.',
    ),
    steel.verdict,
    verdict(
      'part',
      'The program keeps off the part',
      steps,
      absent ?? contacts,
      `Every motion of the text was held against the ${snapshot.piece.fixtures ? 'part and the fixtures' : 'part'}: the cutter keeps each step's allowance, shank and holder are clear.`,
    ),
  ];
}

/** What of the coolant the program cannot switch on, in a sentence; empty when it switches all. */
function byHand(steps: readonly PostedStep[], post: PostDefinition): string {
  const kinds = [...new Set(steps.map((s) => s.at.coolant))];
  const words = kinds.flatMap((kind) => (kind === 'none' || post.coolant[kind] !== null ? [] : COOLANT_WORDS[kind]));
  return words.length > 0 ? ` But the control has no word for ${words.join(', ')}: switch it on by hand.` : '';
}

interface ToolRun {
  readonly run: ControlRun;
  readonly tool: Tool;
}

/** Exact contact of what the text does with part and fixtures as they are: cutter with its allowance, shank, holder. */
async function partFault(
  { piece: { part, fixtures } }: Snapshot,
  steps: readonly PostedStep[],
  all: readonly ControlRun[],
  runs: readonly ToolRun[],
  { stepOf }: Comparison,
  crew: Crew,
): Promise<Fault | undefined> {
  for (const { run, tool } of runs) {
    const shape = shapeOf(tool);
    const stretches = stretchesOf(stepOf[all.indexOf(run)]!);
    const above: ProfilePiece[] = [...shankProfile(shape), ...holderProfile(shape)];
    const looks = stretches.flatMap(({ from, to, step }) => {
      const at = steps[step]?.at;
      const bound = at?.bound;
      // beside the steps nothing is allowed to come nearer than to the bare part
      const allowance = bound?.leaves.least ?? 0;
      const tolerance = Math.max(GOUGE_MM, bound?.tolerance ?? 0);
      const cutter = cuttingPiece(shape);
      const ends = edgesOf(withAllowance(cutter, allowance), steps[step]?.result ?? {});
      const pieces: [ProfilePiece, number][] = [
        ...ends.map((piece): [ProfilePiece, number] => [piece, tolerance]),
        ...above.map((p): [ProfilePiece, number] => [p, CLEAR_MM]),
      ];
      return pieces.flatMap(([piece, slack], k) =>
        spansOf(to - from, 2 * BANDS).map(([a, b]) => ({
          // the cutter keeps off what is left besides on picked faces, too
          input: {
            part: k < ends.length ? (at?.part ?? part) : part,
            piece,
            path: run.path,
            span: [from + a, from + b] as [number, number],
            tolerance: slack,
          },
          isCutter: k < ends.length,
          allowance,
          step,
        })),
      );
    });
    const found = await crew.all(
      gougesTask,
      looks.map((l) => l.input),
    );
    for (const [k, gouges] of found.entries()) {
      const worst = gouges.toSorted((a, b) => b.depth - a.depth)[0];
      if (!worst) continue;
      const { isCutter, allowance, step } = looks[k]!;
      const into = allowance > 0 ? `allowance of ${allowance} mm` : 'part';
      return {
        text: isCutter
          ? `T${run.tool} goes ${worst.depth.toFixed(3)} mm too deep into the ${into}.`
          : `Shank or holder of T${run.tool} would go into the part.`,
        line: run.lines[worst.motion]!,
        ...(step >= 0 ? { stepIndex: step } : {}),
      };
    }
    const held = fixtures ? await fixtureMishap(fixtures, run, tool, crew) : undefined;
    if (held) return { text: `T${run.tool} comes too near a fixture.`, line: run.lines[held.motion]! };
  }
  return undefined;
}

async function fixtureMishap(
  fixtures: NonNullable<Snapshot['piece']['fixtures']>,
  { path }: ControlRun,
  tool: Tool,
  crew: Crew,
): Promise<Mishap | undefined> {
  const body = bodyOf(shapeOf(tool));
  const spans = spansOf(path.x.length, BANDS);
  return (
    await crew.all(
      fixturesTask,
      spans.map((span) => ({ fixtures, body, path, span })),
    )
  ).flat()[0];
}

/** A cutter larger by an allowance on all sides, about the same centre. */
function withAllowance(cutter: ProfilePiece, allowance: number): ProfilePiece {
  return { ...grown(cutter, allowance), z: cutter.z - allowance };
}

/** Stretches of motions that belong to the same step; point 0 is where a run begins. */
function stretchesOf(stepOf: Int32Array): { from: number; to: number; step: number }[] {
  const out: { from: number; to: number; step: number }[] = [];
  for (let i = 1; i < stepOf.length; i++) {
    const last = out.at(-1);
    if (last && last.step === stepOf[i]) last.to = i + 1;
    else out.push({ from: i, to: i + 1, step: stepOf[i]! });
  }
  return out;
}

/** What the text does to the steel: what it meets where it must not, and whether it leaves what the plan promised. */
async function steelFaults(
  { piece }: Snapshot,
  steps: readonly PostedStep[],
  runs: readonly ToolRun[],
  crew: Crew,
  onProgress: (share: number) => void,
): Promise<{ mishap: Fault | undefined; verdict: Verdict }> {
  let { steel } = piece;
  let mishap: Fault | undefined;
  for (const [k, { run, tool }] of runs.entries()) {
    const body = bodyOf(shapeOf(tool));
    const { after, mishaps } = await runOver(steel, run.path, body, crew);
    steel = after;
    const [first] = mishaps;
    if (first && !mishap)
      mishap = {
        text: `T${run.tool} meets steel where it must not: ${MISHAPS[first.kind]}.`,
        line: run.lines[first.motion]!,
      };
    onProgress((k + 1) / runs.length);
  }
  const planned = steps.at(-1)!.result.next.after;
  const { amount, x, y, z } = worstDifference(planned, steel);
  const ok = amount <= SAME_STEEL_MM;
  return {
    mishap,
    verdict: {
      id: 'steel',
      title: 'The program leaves the steel that the plan promised',
      ok,
      text: ok
        ? `Largest difference ${amount.toFixed(4)} mm on ${planned.nx} x ${planned.ny} cells of ${planned.cell.toFixed(3)} mm.`
        : `The steel differs by ${amount.toFixed(3)} mm at X ${x.toFixed(2)} Y ${y.toFixed(2)}.`,
      ...(ok ? {} : { at: { x, y, z } }),
    },
  };
}

const MISHAPS: Record<Mishap['kind'], string> = {
  rapid: 'a rapid runs through it',
  plunge: 'the cutter is driven straight down into it',
  shank: 'the shank touches it',
  holder: 'the holder touches it',
  fixture: 'a fixture is too near',
};
