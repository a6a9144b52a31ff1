import { existsSync } from 'node:fs';
import { defineConfig } from 'vitest/config';

/** Folders whose tests are run for changes to a folder, where its own are not all. */
const HELD_BY: Record<string, string[]> = {
  post: ['post', 'release'],
  path: ['path', 'check'],
  check: ['check'],
  field: ['field'],
  evaluate: ['evaluate', 'release'],
};
const [folder = 'post', only] = (process.env['MUTATE'] ?? 'post').split('/');
/** A file alone is held by its own test where it has one. */
const own = `packages/core/src/${folder}/${only}.test.ts`;
const held = (HELD_BY[folder] ?? [folder]).map((name) => `packages/core/src/${name}/**/*.test.ts`);

export default defineConfig({
  test: {
    include: only && existsSync(own) ? [own] : held,
    testTimeout: 400_000,
  },
});
