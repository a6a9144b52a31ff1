import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type Job, jobFile, packBundle, readStl, volumeOf, writeStl } from '@esquisse/core';
import { afterAll, describe, expect, it } from 'vitest';
import { sheet, testCrib, testJob } from '../../core/test/shapes';

const BIN = join(dirname(fileURLToPath(import.meta.url)), '../bin/esquisse.mjs');
const place = mkdtempSync(join(tmpdir(), 'esquisse-'));
afterAll(() => rmSync(place, { recursive: true, force: true }));

const soup = sheet([-20, -15, 20, 15], 1, -15, (x, y) => -6 * Math.exp(-(x * x + y * y) / 90));
const steps = [
  { kind: 'level-roughing', assemblyId: 't2', values: { ap: 2 } },
  { kind: 'parallel-passes', assemblyId: 't3', values: { scallop: 0.1 } },
];

function esquisse(...args: string[]): { status: number | null; stderr: string; stdout: string } {
  return spawnSync(process.execPath, [BIN, ...args], { encoding: 'utf8' });
}

function fileOf(name: string, job: Job): string {
  const folder = join(place, name);
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'part.stl'), writeStl(soup));
  writeFileSync(join(folder, 'job.json'), JSON.stringify(jobFile(job)));
  return join(folder, 'job.json');
}

describe('esquisse on the command line', () => {
  it('run works out a clean job, exits with 0 and writes all that a proof needs, in the frame of the work zero', () => {
    const out = join(place, 'out');
    const result = esquisse('run', fileOf('clean', testJob(steps, 1)), '--out', out);
    expect(result.stderr).toBe('');
    expect(result.status).toBe(0);
    const report = JSON.parse(readFileSync(join(out, 'report.json'), 'utf8')) as {
      blank: number[];
      steps: { machineTime: number; lengths: Record<string, number>; findings: unknown[]; leftover: { p99: number } }[];
      release: { ok: boolean };
    };
    [-20, -15, -15, 20, 15, 1].forEach((v, k) => expect(Math.abs(report.blank[k]! - v)).toBeLessThan(0.01));
    expect(report.release.ok).toBe(true);
    expect(report.steps).toHaveLength(2);
    expect(report.steps[0]!.lengths['cut']).toBeGreaterThan(50);
    const tools = JSON.parse(readFileSync(join(out, 'tools.json'), 'utf8')) as Record<
      string,
      { type: string; stickOut: number }
    >;
    expect(tools['3']).toMatchObject({ type: 'ball', diameter: 8, stickOut: 45, shankDiameter: 7.6 });
    expect(readFileSync(join(out, 'program-first-side.nc'), 'utf8')).toContain('M30');
    const volume = (file: string): number => volumeOf(readStl(new Uint8Array(readFileSync(join(out, file)))).mesh);
    expect(volume('stock-before.stl')).toBeCloseTo(40 * 30 * (report.blank[5]! - report.blank[2]!), 1);
    expect(volume('stock-after.stl')).toBeGreaterThan(volume('part.stl') * 0.99);
    expect(volume('stock-after.stl')).toBeLessThan(volume('stock-before.stl') - 40 * 30 * 0.9);
  });

  it('run takes the same job as one zip, and --step ends after that step', () => {
    const zip = join(place, 'job.zip');
    writeFileSync(zip, packBundle({ job: testJob(steps, 1), files: new Map([['part.stl', writeStl(soup)]]) }));
    const out = join(place, 'zip');
    expect(esquisse('run', zip, '--out', out, '--step', '1', '--workers', '1').status).toBe(0);
    expect(readFileSync(join(out, 'program-first-side.nc'), 'utf8')).not.toContain('T3 M6');
  });

  it('exits with 1 when something is found that must not happen', () => {
    const crib = testCrib();
    const stubby = { ...crib, cutters: crib.cutters.map((c) => (c.id === 'bull12' ? { ...c, APMX: 0.5 } : c)) };
    const job = testJob([steps[0]!], 2, { crib: stubby });
    const result = esquisse('run', fileOf('bad', job), '--out', join(place, 'bad-out'));
    expect(result.status).toBe(1);
    expect(result.stdout).toMatch(/shank/);
  });

  it('exits with 2 and one sentence for bad input, and writes nothing', () => {
    const out = join(place, 'nothing');
    const broken = fileOf('broken', testJob(steps, 1));
    writeFileSync(join(dirname(broken), 'part.stl'), writeStl(soup).slice(0, 500));
    for (const args of [
      ['run', join(place, 'missing.json'), '--out', out],
      ['run', broken, '--out', out],
      ['run', broken],
      ['carve'],
    ]) {
      const result = esquisse(...args);
      expect(result.status).toBe(2);
      expect(result.stderr.trim().length).toBeGreaterThan(10);
      expect(result.stderr).not.toMatch(/\n\s+at /);
    }
    expect(existsSync(out)).toBe(false);
  });

  it('schema prints the JSON Schema of a job', () => {
    const schema = JSON.parse(execFileSync(process.execPath, [BIN, 'schema'], { encoding: 'utf8' })) as {
      properties: Record<string, unknown>;
    };
    expect(Object.keys(schema.properties)).toEqual(expect.arrayContaining(['part', 'setups', 'crib']));
  });
});
