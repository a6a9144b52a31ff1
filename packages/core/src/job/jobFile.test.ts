import { readdirSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testJob } from '../../test/shapes';
import type { Relations } from '../tool/relative';
import { parseJob } from './job';
import { type JobFile, jobFile, readJob, upgraded } from './jobFile';

const job = testJob([
  { kind: 'level-roughing', assemblyId: 't1' },
  { kind: 'parallel-passes', assemblyId: 't3' },
]);
const OLD = 'test-data/jobs-1';
const throughFile = (of: typeof job): typeof job => readJob(JSON.parse(JSON.stringify(jobFile(of))));

describe('the file of a job', () => {
  it('holds setups with how the part lies, blank and steps, and gives the very same job back', () => {
    const file = jobFile(job) as JobFile & { part: object };
    expect(file.version).toBe(2);
    expect(Object.keys(file.setups[0]!)).toEqual(
      expect.arrayContaining(['lay', 'workZero', 'blank', 'machine', 'steps']),
    );
    for (const key of ['setup', 'steps', 'blank', 'drilled', 'laterSetups']) expect(file).not.toHaveProperty(key);
    expect(file.part).not.toHaveProperty('lay');
    expect(throughFile(job)).toEqual(job);
    expect(throughFile({ ...job, part: null })).toEqual({ ...job, part: null });
  });

  it('relations of steps, limits and crib stand in the place of their values, and come back', () => {
    const expr = fc.record({
      expr: fc.constantFrom('0.3 DC', 'RE / 2', '0.01 + 0.1 DC'),
      unit: fc.constantFrom('mm' as const, 'in' as const),
    });
    fc.assert(
      fc.property(
        fc.dictionary(fc.constantFrom('ae', 'ap', 'lift', 'stairs'), expr),
        fc.option(expr, { nil: undefined }),
        fc.option(expr, { nil: undefined }),
        (ofStep, ofLimit, ofTool) => {
          const some = <T extends object>(one: T, relations: Relations): T =>
            Object.keys(relations).length > 0 ? { ...one, relations } : one;
          const [first, second] = job.steps as [(typeof job.steps)[0], (typeof job.steps)[0]];
          const limit = {
            kind: 'within' as const,
            source: 'x',
            points: [
              [0, 0],
              [9, 0],
              [0, 9],
            ] as [number, number][],
            side: 'on' as const,
            offset: 2,
          };
          const made = parseJob({
            ...job,
            steps: [some({ ...first, limits: [some(limit, ofLimit ? { offset: ofLimit } : {})] }, ofStep), second],
            crib: {
              ...job.crib,
              assemblies: job.crib.assemblies.map((a, i) =>
                i === 0 ? some(a, ofTool ? { stickOut: ofTool } : {}) : a,
              ),
            },
          });
          expect(throughFile(made)).toEqual(made);
          const values = (jobFile(made).setups[0]!['steps'] as { values: Record<string, unknown> }[])[0]!.values;
          for (const [key, { expr: typed }] of Object.entries(ofStep))
            expect(values[key]).toMatchObject({ expr: typed, value: first.values[key] });
        },
      ),
    );
  });

  it('keeps setups after the first as they are', () => {
    const file = {
      ...jobFile(job),
      setups: [...jobFile(job).setups, { name: 'second side', steps: [], new: { a: 1 } }],
    };
    expect(jobFile(readJob(file)).setups[1]).toEqual({ name: 'second side', steps: [], new: { a: 1 } });
  });

  it.each(readdirSync(OLD))('%s of version 1 opens as it was: every value is where it was', (name) => {
    const old = JSON.parse(readFileSync(`${OLD}/${name}`, 'utf8')) as Record<string, unknown>;
    const read = readJob(old);
    // whatever the old file says is there; what it does not say has come by itself
    expect({ ...read, format: 'esquisse-job', version: 1 }).toMatchObject(old);
    expect(read.steps.every((s) => s.enabled && s.cutting.from === 'crib' && s.coolant === 'flood')).toBe(true);
    expect(throughFile(read)).toEqual(read);
    // a migration is a pure function
    const frozen = JSON.stringify(old);
    upgraded(old);
    expect(JSON.stringify(old)).toBe(frozen);
  });

  it('refuses what is no job, or of a version to come, or without a setup, and says at which place', () => {
    const placeOf = (json: unknown): string | undefined => {
      try {
        readJob(json);
      } catch (error) {
        return (error as { place?: string }).place;
      }
      return 'none';
    };
    const file = jobFile(job);
    expect(placeOf({ ...file, format: 'other' })).toBe('format');
    expect(placeOf(null)).toBe('format');
    expect(placeOf({ ...file, version: 7 })).toBe('version');
    expect(placeOf({ ...file, version: 'constructor' })).toBe('version');
    expect(placeOf({ ...file, setups: [] })).toBe('setups');
    expect(placeOf({ ...file, setups: [{ ...file.setups[0], workOffset: 'G99' }] })).toBe('setup.workOffset');
    expect(placeOf({ ...file, crib: 3 })).toMatch(/^crib/);
    expect(() => readJob({ ...file, version: 7 })).toThrow('version 7; this program reads versions up to 2');
  });
});
