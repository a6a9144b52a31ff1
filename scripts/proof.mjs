import { ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
runTool('vitest/vitest.mjs', ['run', '--config', 'proof/vitest.config.ts']);
