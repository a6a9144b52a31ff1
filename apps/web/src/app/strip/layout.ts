import { cutterTitle, type Job, kindOf, type Magazine, magazineChanges, toolOf, unattended } from '@esquisse/core';
import { runOf } from '../engine/runs';
import type { StepSummary } from '../engine/views';
import { clock } from '../shared/numbers';
import { changeBefore } from '../state/planTime';

/** Tints by which steps of the same cutter are told, in the order of first use. */
const TINTS = ['#6c7682', '#2e7d74', '#3c4c86', '#8c6a3f', '#7a4a5e', '#56703f'];
/** Beside the widest of its lines a block has this much room, pixels. */
const BESIDE = 20;
/** A step that is not calculated is as wide as this share of a usual one. */
const UNKNOWN = 0.6;

/** One step on the strip. Lengths along the strip are in pixels. */
export interface Block {
  readonly id: string;
  readonly number: number;
  readonly name: string;
  readonly cutter: string;
  readonly time: string;
  readonly leaves: string;
  readonly tint: string;
  readonly left: number;
  readonly width: number;
  readonly state: 'fresh' | 'stale' | 'new' | 'working' | 'asked' | 'off';
  readonly findings: readonly { readonly left: number; readonly text: string; readonly motion: number }[];
  /** Seconds for changing the cutter in, where the step before has another one. */
  readonly change: number | undefined;
  /** Whether that is done by hand: one of the two has no place in the magazine. */
  readonly isByHand: boolean;
  /** How long nobody has to come to the machine from here on, in words, where such a stretch begins. */
  readonly unattended: string;
}

/** What the strip is laid out from. */
export interface StripState {
  readonly summaries: readonly StepSummary[];
  readonly fresh: readonly string[];
  readonly workingId: string | undefined;
  /** Whether what is told holds for the job as it is. */
  readonly isTold: boolean;
  /** The machine's, where the shop told what stands in it. */
  readonly magazine: Magazine | undefined;
}

/**
 * The steps one behind the other, each as wide as its time, and none narrower than its words.
 *
 * @param room length that there is for them, pixels; where their words want more, the strip is longer
 * @param measured width of a text on the strip, pixels
 */
export function stripBlocks(
  job: Job,
  { summaries, fresh, workingId, isTold, magazine }: StripState,
  room: number,
  measured: (text: string, isName: boolean) => number,
): Block[] {
  const found = job.steps.map((step) => summaries.find((s) => s.stepId === step.id));
  const words = job.steps.map((step, i) => {
    const summary = found[i];
    const tool = toolOf(job.crib, step.assemblyId);
    const isFresh = fresh.includes(step.id);
    const isWorking = workingId === step.id;
    return {
      name: step.name || (kindOf(step.kind)?.name ?? ''),
      cutter: tool ? cutterTitle(tool.cutter) : '',
      time: !step.enabled
        ? 'off'
        : isWorking
          ? 'calculating'
          : summary
            ? clock(summary.figures.time)
            : 'not calculated',
      leaves: summary && !isFresh && !isWorking ? (isTold ? ' · out of date' : ' · …') : '',
      state: !step.enabled
        ? 'off'
        : isWorking
          ? 'working'
          : isFresh
            ? 'fresh'
            : !isTold
              ? 'asked'
              : summary
                ? 'stale'
                : 'new',
    } as const;
  });
  const least = words.map(
    (w, i) =>
      BESIDE +
      Math.max(measured(`${i + 1} ${w.name}`, true), measured(w.cutter, false), measured(w.time + w.leaves, false)),
  );
  const times = found.map((s) => s?.figures.time ?? 0);
  const known = times.filter((t) => t > 0);
  const usual = known.length > 0 ? known.reduce((a, b) => a + b, 0) / known.length : 1;
  const widths = shared(
    times.map((t, i) => (t > 0 ? t : job.steps[i]!.enabled ? UNKNOWN * usual : 0)),
    least,
    room,
  );
  const isKnown = isTold && job.steps.every((step) => !step.enabled || fresh.includes(step.id));
  const stretches = stretchesOf(job, times, magazine);
  const cutters = [...new Set(job.steps.map((s) => s.assemblyId))];
  let left = 0;
  return job.steps.map((step, i): Block => {
    const width = widths[i]!;
    const summary = found[i];
    const from = left;
    left += width;
    return {
      id: step.id,
      number: i + 1,
      ...words[i]!,
      tint: TINTS[cutters.indexOf(step.assemblyId) % TINTS.length]!,
      left: from,
      width,
      findings: placesIn(summary).map((f) => ({
        left: from + (width * runOf(summary!).times[f.motion]!) / Math.max(1e-9, summary!.figures.time),
        text: f.text,
        motion: f.motion,
      })),
      change: changeBefore(job, i) || undefined,
      isByHand: i > 0 && stretches.has(i),
      unattended: isKnown && stretches.has(i) ? clock(stretches.get(i)!) : '',
    };
  });
}

/** Seconds in which nobody has to come to the machine, by the index of the step at which they begin. */
function stretchesOf(job: Job, times: readonly number[], magazine: Magazine | undefined): Map<number, number> {
  const steps = job.steps.flatMap((step, i) => {
    const tool = step.enabled ? toolOf(job.crib, step.assemblyId) : undefined;
    return tool ? [{ i, tool, number: tool.assembly.number, seconds: times[i]!, change: changeBefore(job, i) }] : [];
  });
  const lacking = magazine ? magazineChanges(magazine, [...new Set(steps.map(({ tool }) => tool))]).lacking : [];
  return new Map(
    unattended(steps, new Set(lacking.map(({ number }) => number))).map(({ first, seconds }) => [
      steps[first]!.i,
      seconds,
    ]),
  );
}

/** All places at which something is wrong in a step, one each. */
function placesIn(summary: StepSummary | undefined): { motion: number; text: string }[] {
  return (summary?.figures.findings ?? []).flatMap(({ places }) => places);
}

/** Shares room by times; who would get less than it needs gets just that, and the others share the rest. */
function shared(times: readonly number[], least: readonly number[], room: number): number[] {
  const widths = [...least];
  let open = times.map((_, i) => i);
  for (;;) {
    const rest = room - widths.reduce((sum, w, i) => sum + (open.includes(i) ? 0 : w), 0);
    const time = open.reduce((sum, i) => sum + times[i]!, 0);
    const held = open.filter((i) => (rest * times[i]!) / time < least[i]!);
    if (open.length === 0) return widths;
    if (held.length === 0) {
      for (const i of open) widths[i] = (rest * times[i]!) / time;
      return widths;
    }
    open = open.filter((i) => !held.includes(i));
  }
}
