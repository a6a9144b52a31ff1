import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { FORMATS } from './formats';
import { fuzz } from './fuzz';
import { outcomeOf } from './reading';

/** Cases of each format in a test run; `npm run fuzz` goes on for as long as is wanted. */
const CASES = 60;
const kept = join(dirname(fileURLToPath(import.meta.url)), '../test-data/damaged');

describe('damaged files', () => {
  it.each(FORMATS.map((f) => f.name))(
    '%s: refused in words, read with doubts, or read as what they were',
    async (name) => {
      const { tallies, found } = await fuzz(30, { cases: CASES }, name);
      expect(found.map(({ fault, damages }) => ({ fault, damages }))).toEqual([]);
      expect(tallies[0]!.cases).toBe(CASES);
      expect(tallies[0]!.refused).toBeGreaterThan(0);
    },
  );

  it('those that were taken wrongly once never are again', async () => {
    const files = readdirSync(kept);
    expect(files.length).toBeGreaterThan(3);
    for (const file of files) {
      // the longest name first: "crib table" begins as "crib" does
      const format = FORMATS.toSorted((a, b) => b.name.length - a.name.length).find((f) =>
        file.startsWith(f.name.toLowerCase().replaceAll(' ', '-')),
      )!;
      const outcome = await outcomeOf(format.name, new Uint8Array(readFileSync(join(kept, file))));
      const isTold = outcome.kind === 'refused' || (outcome.kind === 'read' && outcome.reading.isDoubted);
      expect([file, isTold]).toEqual([file, true]);
    }
  });
});
