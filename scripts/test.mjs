import { ensureBrowser, ensureBuild, ensurePackages, run, runTool } from './prepare.mjs';

ensurePackages();
ensureBrowser();
run('npm', ['run', '--silent', 'lint']);
run('npm', ['run', '--silent', 'typecheck']);
runTool('vitest/vitest.mjs', ['run']);
runTool('@angular/cli/bin/ng.js', ['test']);
ensureBuild();
runTool('@playwright/test/cli.js', ['test']);
