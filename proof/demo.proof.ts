import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

interface Report {
  steps: { name: string; findings: unknown[]; leftover: { gouge: number } }[];
  release: { ok: boolean };
}

describe('every demo job', () => {
  for (const name of readdirSync('demo/jobs').filter((f) => f.endsWith('.json')))
    it(`${name} is worked out, posted and read back clean, with no gouge above 0.01 mm on the stock's cells`, () => {
      const out = mkdtempSync(join(tmpdir(), 'esquisse-proof-'));
      const result = spawnSync(
        process.execPath,
        ['packages/cli/bin/esquisse.mjs', 'run', join('demo/jobs', name), '--out', out],
        {
          encoding: 'utf8',
        },
      );
      expect(result.stderr).toBe('');
      expect(result.status).toBe(0);
      const report = JSON.parse(readFileSync(join(out, 'report.json'), 'utf8')) as Report;
      expect(report.release.ok).toBe(true);
      for (const step of report.steps) {
        expect(step.findings).toEqual([]);
        expect(step.leftover.gouge).toBeLessThan(0.01);
      }
    });
});
