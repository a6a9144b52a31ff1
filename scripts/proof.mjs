import { ensurePackages, runTool } from './prepare.mjs';

ensurePackages();
runTool('vitest/vitest.mjs', ['run', '--config', 'proof/vitest.config.ts']);
