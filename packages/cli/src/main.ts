import { EsquisseError, jobFileSchema, messageOf } from '@esquisse/core';
import { z } from 'zod';
import { run } from './run';

const USAGE = `Usage:
  esquisse run JOB --out DIR [--step N] [--workers N]   calculate, post and prove a job (zip, or JSON with its part beside it)
  esquisse schema                                       print the JSON Schema of a job`;

/** Exit codes: clean; something found that must not happen; bad input. */
const CLEAN = 0;
const FOUND = 1;
const BAD_INPUT = 2;

async function main(args: readonly string[]): Promise<number> {
  const [command, ...rest] = args;
  if (command === 'schema') {
    console.log(JSON.stringify(z.toJSONSchema(jobFileSchema, { io: 'input' }), null, 2));
    return CLEAN;
  }
  if (command === 'run') return (await run(readRunArguments(rest))) ? CLEAN : FOUND;
  if (command === '--help' || command === '-h') {
    console.log(USAGE);
    return CLEAN;
  }
  throw new EsquisseError('value-invalid', command ? `There is no command "${command}".\n${USAGE}` : USAGE);
}

function readRunArguments(args: readonly string[]): Parameters<typeof run>[0] {
  let job: string | undefined;
  let out: string | undefined;
  let step: number | undefined;
  let workers: number | undefined;
  for (let i = 0; i < args.length; i++) {
    const value = args[i]!;
    if (value === '--out') out = args[++i];
    else if (value === '--step') step = wholeNumber('--step', args[++i]);
    else if (value === '--workers') workers = wholeNumber('--workers', args[++i]);
    else if (value.startsWith('--')) throw new EsquisseError('value-invalid', `There is no option ${value}.\n${USAGE}`);
    else if (job === undefined) job = value;
    else throw new EsquisseError('value-invalid', `One job at a time: "${value}" is too many.`);
  }
  if (!job) throw new EsquisseError('value-invalid', `A job file is missing.\n${USAGE}`);
  if (!out) throw new EsquisseError('value-invalid', `--out DIR is missing.\n${USAGE}`);
  return { job, out, step, workers };
}

function wholeNumber(option: string, text: string | undefined): number {
  const n = Number(text);
  if (!Number.isInteger(n) || n < 1)
    throw new EsquisseError('value-invalid', `${option} wants a whole number from 1, not "${text ?? ''}".`);
  return n;
}

try {
  process.exitCode = await main(process.argv.slice(2));
} catch (error) {
  console.error(error instanceof EsquisseError ? error.message : `Unexpected: ${messageOf(error)}`);
  if (!(error instanceof EsquisseError) && error instanceof Error) console.error(error.stack);
  process.exitCode = BAD_INPUT;
}
