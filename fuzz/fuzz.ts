import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import fc from 'fast-check';
import { type Damage, damaged, damagesOf } from './damage';
import { FORMATS, type FuzzedFormat, type Reading } from './formats';
import type { Outcome } from './reading';

/** A reading may take this long, and this much memory. */
const LONGEST_MS = 5000;
const MOST_MB = 512;
/** Figures that agree within this are the same: text files round. */
const SAME = 1e-3;

/** What can be wrong with how a damaged file was taken. */
export type Fault = 'hangs' | 'memory' | 'untyped' | 'not finite' | 'loss not told';

/** Reads files in a thread of its own, one after another; a thread that takes too long or too much is ended. */
class Reader {
  private worker?: Worker | undefined;
  private next = 0;

  async read(format: string, bytes: Uint8Array): Promise<Outcome | 'hangs' | 'memory'> {
    const worker = (this.worker ??= await started());
    return new Promise((resolve) => {
      const id = this.next++;
      const end = (outcome: Outcome | 'hangs' | 'memory'): void => {
        clearTimeout(late);
        worker.off('message', take).off('error', fail);
        if (typeof outcome === 'string') {
          void worker.terminate();
          this.worker = undefined;
        }
        resolve(outcome);
      };
      // a case that was given up when time ran out may answer still
      const take = (answer: { id: number; outcome: Outcome }): void => {
        if (answer.id === id) end(answer.outcome);
      };
      const fail = (error: Error & { code?: string }): void => {
        this.worker = undefined;
        end(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'memory' : { kind: 'untyped', message: String(error) });
      };
      const late = setTimeout(() => end('hangs'), LONGEST_MS);
      worker.on('message', take).on('error', fail);
      worker.postMessage({ id, format, bytes });
    });
  }

  async stop(): Promise<void> {
    await this.worker?.terminate();
    this.worker = undefined;
  }
}

function started(): Promise<Worker> {
  const worker = new Worker(new URL('./worker.mjs', import.meta.url), {
    resourceLimits: { maxOldGenerationSizeMb: MOST_MB },
  });
  return new Promise((resolve, reject) => {
    worker.once('error', reject);
    worker.once('message', () => {
      worker.off('error', reject);
      resolve(worker);
    });
  });
}

/**
 * Damage that leaves what is read as it was, or takes something away that a sound reader misses. Lines that change places
 * lose nothing: where corners are told by their number it is another part, as whole as the first.
 */
const LOSES: ReadonlySet<Damage['kind']> = new Set(['cut', 'drop', 'line-drop', 'double', 'line-double']);

/** What is wrong with an outcome; undefined when nothing is. */
function faultOf(
  format: FuzzedFormat,
  whole: Reading,
  damages: readonly Damage[],
  outcome: Outcome | 'hangs' | 'memory',
): Fault | undefined {
  if (typeof outcome === 'string') return outcome;
  if (outcome.kind === 'untyped') return 'untyped';
  if (outcome.kind === 'refused')
    return /undefined|function|\[object|at .*\.ts:/.test(outcome.message) ? 'untyped' : undefined;
  const { figures, isDoubted } = outcome.reading;
  if (figures.some((f) => !Number.isFinite(f))) return 'not finite';
  const isSame =
    figures.length === whole.figures.length &&
    figures
      .slice(0, format.isIndexed ? 1 : undefined)
      .every((f, k) => Math.abs(f - whole.figures[k]!) <= SAME * Math.max(1, Math.abs(whole.figures[k]!)));
  // what was damaged inside a zip and packed again is another file; the container itself may change nothing
  const isContainer = format.isZip && damages.every((d) => d.kind !== 'entry');
  const isLoss = format.seesLoss && !format.isZip && damages.every((d) => LOSES.has(d.kind));
  return !isSame && !isDoubted && (isContainer || isLoss) ? 'loss not told' : undefined;
}

export interface Found {
  readonly format: string;
  readonly fault: Fault;
  readonly damages: readonly Damage[];
  readonly file: Uint8Array;
}

/** How many cases of a format there were, and how they ended. */
export interface Tally {
  readonly format: string;
  cases: number;
  read: number;
  refused: number;
}

export interface Summary {
  readonly tallies: Tally[];
  readonly found: Found[];
}

/**
 * Damages files of every format and looks at how they are taken.
 *
 * @param until when to end, ms since 1970, or how many cases of each format
 * @param only the name of a format, for that one alone
 */
export async function fuzz(seed: number, until: { time?: number; cases?: number }, only?: string): Promise<Summary> {
  const summary: Summary = { tallies: [], found: [] };
  const reader = new Reader();
  const formats = FORMATS.filter((f) => only === undefined || f.name === only);
  for (const [k, format] of formats.entries()) {
    const tally: Tally = { format: format.name, cases: 0, read: 0, refused: 0 };
    summary.tallies.push(tally);
    const bytes = format.seed();
    const sound = await reader.read(format.name, bytes);
    if (typeof sound === 'string' || sound.kind !== 'read')
      throw new Error(`The sound ${format.name} file is not read: ${JSON.stringify(sound)}`);
    const left =
      until.time === undefined ? undefined : Math.max(1000, (until.time - Date.now()) / (formats.length - k));
    const property = fc.asyncProperty(damagesOf(format), async (damages) => {
      tally.cases++;
      const outcome = await reader.read(format.name, damaged(bytes, damages));
      if (typeof outcome !== 'string') {
        if (outcome.kind === 'read') tally.read++;
        if (outcome.kind === 'refused') tally.refused++;
      }
      const fault = faultOf(format, sound.reading, damages, outcome);
      if (fault) throw new Error(fault);
    });
    const result = await fc.check(property, {
      seed,
      numRuns: until.cases ?? 1_000_000,
      ...(left === undefined ? {} : { interruptAfterTimeLimit: left, markInterruptAsFailure: false }),
    });
    if (result.failed && result.counterexample) {
      const [damages] = result.counterexample;
      const fault = (
        result.errorInstance instanceof Error ? result.errorInstance.message : String(result.errorInstance)
      ) as Fault;
      summary.found.push({ format: format.name, fault, damages, file: damaged(bytes, damages) });
    }
  }
  await reader.stop();
  return summary;
}

/** Keeps a file that was taken wrongly, so that it never is again. @returns its name */
export function keepRegression({ format, file }: Found): string {
  const { ending } = FORMATS.find((f) => f.name === format)!;
  const name = `${format.toLowerCase().replaceAll(' ', '-')}-${createHash('sha256').update(file).digest('hex').slice(0, 10)}.${ending}`;
  const folder = join(dirname(fileURLToPath(import.meta.url)), '../test-data/damaged');
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, name), file);
  return name;
}
