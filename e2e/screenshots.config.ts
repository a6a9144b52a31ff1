import { defineConfig } from '@playwright/test';
import base from '../playwright.config';

/** Takes the README's pictures from the demo: not a test. */
export default defineConfig({
  ...base,
  testDir: '.',
  testMatch: 'screenshots.ts',
  timeout: 600_000,
  expect: { timeout: 300_000 },
  webServer: { ...(base.webServer as object), cwd: '..' } as NonNullable<typeof base.webServer>,
});
