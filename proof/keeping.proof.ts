import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type BrowserContext, chromium, expect as see, type Page } from '@playwright/test';
import { openBundle } from '../packages/core/src/job/bundle';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/** What a killed browser and a full disk leave of a job: driven in a real browser with a profile of its own. */
const PORT = 4620;
const URL = `http://localhost:${PORT}/workplan`;
const ROUNDS = 30;
/** A change made longer ago than this before the browser is killed is kept, ms. */
const KEPT_WITHIN_MS = 500;

let server: ChildProcess;

beforeAll(async () => {
  server = spawn('node', ['node_modules/tsx/dist/cli.mjs', 'apps/server/src/main.ts'], {
    env: { ...process.env, PORT: String(PORT) },
  });
  await new Promise<void>((resolve) =>
    server.stdout!.on('data', (text) => String(text).includes('ready') && resolve()),
  );
});
afterAll(() => void server.kill());

async function opened(profile: string): Promise<{ context: BrowserContext; page: Page }> {
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: '/usr/bin/chromium',
    viewport: { width: 1280, height: 800 },
    args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--no-first-run'],
  });
  const page = context.pages()[0] ?? (await context.newPage());
  page.setDefaultTimeout(120_000);
  await page.goto(URL);
  await see(page.getByRole('textbox', { name: 'Leave on walls' })).toBeVisible({ timeout: 120_000 });
  return { context, page };
}

/** Ends every process of a browser by its profile, as a crash does it. */
function kill(profile: string): void {
  spawnSync('pkill', ['-KILL', '-f', profile]);
}

const enter = async (page: Page, value: number): Promise<void> => {
  const field = page.getByRole('textbox', { name: 'Leave on walls' });
  await field.fill(String(value));
  await field.press('Enter');
  await see(field).toHaveValue(String(value));
};
const entered = async (page: Page): Promise<number> =>
  Number(await page.getByRole('textbox', { name: 'Leave on walls' }).inputValue());

describe('what is left of a job', () => {
  it(`killed at any moment, ${ROUNDS} times: no change older than half a second is lost, and none but the last`, async () => {
    const profile = mkdtempSync(join(tmpdir(), 'kept-profile-'));
    let last = 0.4;
    const lost: string[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      const { context, page } = await opened(profile);
      const found = await entered(page);
      if (round > 0 && found !== last) lost.push(`round ${round}: ${found} in place of ${last}`);
      const before = found;
      last = Math.round((0.3 + 0.01 * ((round * 7) % 50)) * 1000) / 1000;
      if (last === before) last += 0.005;
      // the page is busy with a calculation in every second round
      if (round % 2 === 1) await page.getByTestId('calculate-all').click();
      await enter(page, last);
      // a moment of its own in each round, from at once to a second
      const wait = (round * 137) % 1000;
      await page.waitForTimeout(wait);
      kill(profile);
      await context.close().catch(() => undefined);
      if (wait < KEPT_WITHIN_MS) {
        // a change of the last half second may be lost, but nothing else
        const again = await opened(profile);
        const now = await entered(again.page);
      console.log(now === 0.61 ? 'the browser had kept the job' : 'the browser had cleared what it kept');
      if (now !== 0.61) {
        // as it was told beforehand: the file brings the job back, with its part
        const file = { name: 'saved.zip', mimeType: 'application/zip', buffer: saved };
        await again.page.getByTestId('job-file').setInputFiles(file);
        await see(again.page.getByRole('textbox', { name: 'Leave on walls' })).toHaveValue('0.63', { timeout: 60_000 });
        await see(again.page.getByRole('alert')).toHaveCount(0);
      }
      await again.context.close();
    } finally {
      spawnSync('umount', ['-l', disk]);
    }
  });
});
