import { defineConfig } from '@playwright/test';

/** Browser tests against the built application, served as `npm start` serves it. */
const PORT = 4610;

export default defineConfig({
  testDir: 'e2e',
  testMatch: '*.spec.ts',
  // what takes long and is mostly seen by others as well is driven with the proofs
  ...(process.env['ESQUISSE_PROOF'] ? { grep: /@slow/ } : { grepInvert: /@slow/ }),
  fullyParallel: false,
  workers: 1,
  timeout: 900_000,
  expect: { timeout: 300_000 },
  reporter: [['list']],
  use: {
    screenshot: 'only-on-failure',
    actionTimeout: 120_000,
    baseURL: `http://localhost:${PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--ignore-gpu-blocklist',
        '--disable-background-networking',
        '--disable-component-update',
        '--no-first-run',
      ],
    },
  },
  webServer: {
    command: 'node node_modules/tsx/dist/cli.mjs apps/server/src/main.ts',
    port: PORT,
    env: { PORT: String(PORT) },
    reuseExistingServer: false,
  },
});
