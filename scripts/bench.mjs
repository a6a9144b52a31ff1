import { ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
const [first, ...rest] = process.argv.slice(2);
// the kernels alone, or the steps of a demo job on two threads
if (first === '--steps') runTool('tsx/dist/cli.mjs', ['bench/steps.ts', ...rest]);
else runTool('tsx/dist/cli.mjs', ['bench/main.ts', ...process.argv.slice(2)]);
