import { ensurePackages, runTool } from './prepare.mjs';

/** Mutation testing of folders of the core, one after another: `npm run mutate post check`. */
const folders = process.argv.slice(2);
await ensurePackages();
for (const folder of folders.length > 0 ? folders : ['post', 'check', 'path', 'field', 'evaluate']) {
  process.env.MUTATE = folder;
  runTool('@stryker-mutator/core/bin/stryker.js', ['run', 'stryker.config.mjs']);
}
