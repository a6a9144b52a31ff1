import { ensureBrowser, ensureBuild, ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
ensureBrowser();
await ensureBuild();
runTool('vitest/vitest.mjs', ['run', '--config', 'proof/vitest.config.ts']);
