import { ensureBrowser, ensureBuild, ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
ensureBrowser();
await ensureBuild();
runTool('vitest/vitest.mjs', ['run', '--config', 'proof/vitest.config.ts']);
runTool('@playwright/test/cli.js', ['test'], { env: { ...process.env, ESQUISSE_PROOF: '1' } });
