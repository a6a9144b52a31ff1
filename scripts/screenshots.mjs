import { ensureBrowser, ensureBuild, ensurePackages, runTool } from './prepare.mjs';

await ensurePackages();
await ensureBuild();
ensureBrowser();
runTool('@playwright/test/cli.js', ['test', '--config', 'e2e/screenshots.config.ts']);
