import { ensureBrowser, ensureBuild, ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
ensureBrowser();
await ensureBuild();
// all properties again, on cases of their own
const seed = String(Date.now() % 2 ** 31);
console.log(`SEED=${seed}`);
runTool('vitest/vitest.mjs', ['run'], { env: { ...process.env, SEED: seed, ESQUISSE_PROOF: '1' } });
runTool('vitest/vitest.mjs', ['run', '--config', 'proof/vitest.config.ts']);
runTool('@playwright/test/cli.js', ['test'], { env: { ...process.env, ESQUISSE_PROOF: '1' } });
