import { ensureBuild, ensurePackages, runTool } from './prepare.mjs';

ensurePackages();
ensureBuild();
runTool('tsx/dist/cli.mjs', ['apps/server/src/main.ts']);
