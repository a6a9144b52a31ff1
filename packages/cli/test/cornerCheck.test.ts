import { readFileSync } from 'node:fs';
import { calculateJob, callHere, readJob, readPart, type StepResult } from '@esquisse/core';
import { beforeAll, describe, expect, it } from 'vitest';

/**
 * Checks 11 and 12 on the job that ships with the application: a square pocket, opened by a flat end of 25 mm with 2 mm left,
 * then cleared in its corners by one of 5 mm. Areas are geometry; thresholds common practice, no source.
 */
describe('the corner check of the demo', () => {
  const results: StepResult[] = [];
  const HALF = 35 - 2;
  /** Plan area in one corner that stands above the floor with its allowance, mm². */
  const left = ({ next: { after } }: StepResult): number => {
    let cells = 0;
    for (let o = 0; o < after.heights.length; o++) {
      const x = Math.abs(after.x0 + ((o % after.nx) + 0.5) * after.cell);
      const y = Math.abs(after.y0 + (Math.floor(o / after.nx) + 0.5) * after.cell);
      if (x < HALF && y < HALF && after.heights[o]! > after.floor + 30 - 12 + 2 + 0.1) cells++;
    }
    return (cells * after.cell ** 2) / 4;
  };

  beforeAll(async () => {
    const job = readJob(JSON.parse(readFileSync('demo/jobs/corner-check.json', 'utf8')));
    const { mesh } = await readPart('c.stl', readFileSync('demo/parts/corner-check.stl'), 'mm', () =>
      Promise.reject(new Error('no STEP here')),
    );
    const session = await calculateJob(job, { part: mesh, key: 'corner' }, [callHere]);
    results.push(...job.steps.map((s) => session.results.get(s.id)!));
  }, 120_000);

  it('25 mm leave 33.53 mm² in each corner', () => {
    expect(left(results[0]!)).toBeCloseTo((1 - Math.PI / 4) * 12.5 ** 2, 0);
  });

  it('5 mm where more than 2 mm is left above the allowance leave upstands beside every corner', () => {
    const clean = (1 - Math.PI / 4) * 2.5 ** 2;
    expect(left(results[1]!)).toBeGreaterThan(clean + 0.5);
    expect(left(results[1]!)).toBeLessThan(left(results[0]!) / 2);
  });

  it('5 mm where more than 0.1 mm is left clear every corner to 1.341 mm², and cut nothing along the straight walls', () => {
    expect(Math.abs(left(results[2]!) - (1 - Math.PI / 4) * 2.5 ** 2)).toBeLessThan(0.25);
    const { x, y, kind } = results[2]!.path;
    for (let k = 1; k < x.length; k++)
      if (kind[k] === 1) expect(Math.min(Math.abs(x[k]!), Math.abs(y[k]!))).toBeGreaterThan(HALF - 14);
  });

  it('nothing that must not happen happens', () => {
    for (const r of results) expect(r.figures.findings).toEqual([]);
  });
});
