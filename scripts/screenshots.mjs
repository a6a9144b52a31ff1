import { ensureBrowser, ensureBuild, ensurePackages, runTool } from './prepare.mjs';

ensurePackages();
ensureBuild();
ensureBrowser();
runTool('@playwright/test/cli.js', ['test', '--config', 'e2e/screenshots.config.ts']);
