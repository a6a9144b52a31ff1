import { ensurePackages, runTool } from './prepare.mjs';

ensurePackages();
runTool('tsx/dist/cli.mjs', ['bench/main.ts', ...process.argv.slice(2)]);
