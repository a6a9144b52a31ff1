import { ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
runTool('tsx/dist/cli.mjs', ['fuzz/main.ts', ...process.argv.slice(2)]);
