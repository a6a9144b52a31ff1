import { readdirSync } from 'node:fs';

/**
 * Mutation testing of a folder of the core, or of a file: `npm run mutate post`, `npm run mutate check/gouge`. Each change to the code should make a test fail; one that
 * survives is read, and killed by a test or named as equivalent. Of the tests those run that lie in the folder and in the
 * folders that are held against it.
 */
const [folder, only] = (process.env.MUTATE ?? 'post').split('/');
const core = 'packages/core/src';

export default {
  testRunner: 'vitest',
  vitest: { configFile: 'stryker.vitest.config.ts', related: false },
  plugins: ['@stryker-mutator/vitest-runner'],
  mutate: readdirSync(`${core}/${folder}`)
    .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts') && (!only || file === `${only}.ts`))
    .map((file) => `${core}/${folder}/${file}`),
  coverageAnalysis: 'perTest',
  ignoreStatic: true,
  concurrency: Number(process.env.WORKERS ?? 2),
  timeoutMS: 20_000,
  timeoutFactor: 3,
  // words that people read are checked where they matter; other spellings of them are no faults
  mutator: { excludedMutations: ['StringLiteral'] },
  ignorePatterns: ['dist', 'docs', 'e2e', 'demo/parts', 'apps', 'test-results', '.angular'],
  tempDirName: '.stryker',
  reporters: ['clear-text', 'json'],
  clearTextReporter: { allowColor: false, reportTests: false, reportScoreTable: true },
  jsonReporter: { fileName: `.stryker/${only ? `${folder}-${only}` : folder}.json` },
};
