import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { readJob } from '../src/job/jobFile';
import { kindOf } from '../src/strategy/registry';

const JOBS = join(import.meta.dirname, '../../../demo/jobs');

describe('the demo’s jobs', () => {
  it.each(readdirSync(JOBS))('%s can be opened, and no value of its steps is missing', (file) => {
    const json = JSON.parse(readFileSync(join(JOBS, file), 'utf8')) as { setups: { steps: { values: object }[] }[] };
    const job = readJob(json);
    expect(job.steps.length).toBeGreaterThan(0);
    for (const [k, step] of job.steps.entries()) {
      expect(kindOf(step.kind)).toBeDefined();
      expect(Object.keys(json.setups[0]!.steps[k]!.values).length).toBeGreaterThan(3);
    }
  });
});
