import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    setupFiles: ['packages/core/test/seed.ts'],
    include: [
      'packages/*/src/**/*.test.ts',
      'packages/*/test/**/*.test.ts',
      'apps/web/src/**/*.test.ts',
      'apps/server/src/**/*.test.ts',
      'fuzz/*.test.ts',
    ],
    // otherwise one core is left idle
    maxWorkers: availableParallelism(),
    testTimeout: 400_000,
    hookTimeout: 400_000,
  },
});
