import { ensureBuild, ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
await ensureBuild();
runTool('tsx/dist/cli.mjs', ['apps/server/src/main.ts']);
