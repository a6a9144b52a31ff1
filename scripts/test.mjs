import { ensureBrowser, ensureBuild, ensurePackages, run, runTool } from './prepare.mjs';

await ensurePackages();
ensureBrowser();
run('npm', ['run', '--silent', 'lint']);
run('npm', ['run', '--silent', 'typecheck']);
runTool('vitest/vitest.mjs', ['run']);
runTool('@angular/cli/bin/ng.js', ['test']);
await ensureBuild();
runTool('@playwright/test/cli.js', ['test']);
