import { defineConfig } from 'vitest/config';

/** Folders whose tests are run for changes to a folder, where its own are not all. */
const HELD_BY: Record<string, string[]> = {
  post: ['post', 'release'],
  path: ['path', 'check'],
  check: ['check'],
  field: ['field'],
  evaluate: ['evaluate', 'release'],
};
const folder = process.env['MUTATE'] ?? 'post';

export default defineConfig({
  test: {
    include: (HELD_BY[folder] ?? [folder]).map((name) => `packages/core/src/${name}/**/*.test.ts`),
    testTimeout: 400_000,
  },
});
