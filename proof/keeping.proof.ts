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
  // at a first visit the demo works itself out
  await context.addInitScript(() => localStorage.setItem('esquisse.visited', 'yes'));
  const page = context.pages()[0] ?? (await context.newPage());
  page.setDefaultTimeout(120_000);
  await page.goto(URL);
  await see(page.getByRole('textbox', { name: 'Side allowance' })).toBeVisible({ timeout: 120_000 });
  return { context, page };
}

/** Ends every process of a browser by its profile, as a crash does it. */
function kill(profile: string): void {
  spawnSync('pkill', ['-KILL', '-f', profile]);
}

const enter = async (page: Page, value: number): Promise<void> => {
  const field = page.getByRole('textbox', { name: 'Side allowance' });
  await field.fill(String(value));
  await field.press('Enter');
  await see(field).toHaveValue(String(value));
};
const entered = async (page: Page): Promise<number> =>
  Number(await page.getByRole('textbox', { name: 'Side allowance' }).inputValue());

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
        expect([before, last]).toContain(now);
        last = now;
        await again.context.close();
      }
    }
    expect(lost).toEqual([]);
    rmSync(profile, { recursive: true, force: true });
  });

  it('a full disk: told in words, the job can be saved to a file and calculated, and what is kept afterwards is doubted', async () => {
    const disk = mkdtempSync(join(tmpdir(), 'small-disk-'));
    if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=160m', 'tmpfs', disk]).status !== 0) {
      console.warn('No small disk can be made here: run as root.');
      return;
    }
    try {
      const { context, page } = await opened(join(disk, 'profile'));
      await enter(page, 0.51);
      // what is left of the disk is filled, and again whatever the browser frees of it
      let files = 0;
      const fill = (): void => {
        for (let kb = 256 * 1024; kb >= 4;) {
          try {
            writeFileSync(join(disk, `fill-${files++}`), Buffer.alloc(kb * 1024, 1));
          } catch {
            kb /= 2;
          }
        }
      };
      for (let k = 0; k < 12; k++) {
        fill();
        await enter(page, Math.round((0.52 + k / 100) * 100) / 100);
      }
      await see(page.getByTestId('saved')).toHaveText('not kept');
      await see(page.getByRole('alert')).toContainText('only a file keeps it');
      const download = page.waitForEvent('download');
      await page.getByRole('button', { name: 'Jobs' }).click();
      await page.getByRole('menuitem', { name: 'Save the whole job to a file' }).click();
      // the file holds the job as it was changed last, and its part
      const saved = readFileSync(await (await download).path());
      const bundle = openBundle(saved, 'saved');
      expect(bundle.job.steps[0]!.values['sideAllowance']).toBe(0.63);
      expect(bundle.files.get(bundle.job.part!.file)!.length).toBeGreaterThan(10_000);
      await page.getByTestId('calculate').click();
      await see(page.getByTestId('calculate')).toBeDisabled({ timeout: 300_000 });
      await see(page.getByRole('banner').getByRole('status')).toHaveCount(0, { timeout: 300_000 });
      for (const name of readdirSync(disk)) if (name.startsWith('fill')) rmSync(join(disk, name));
      await enter(page, 0.61);
      // a browser that failed in the middle of writing may clear all that it keeps when it is started next
      await see(page.getByTestId('saved')).toHaveText('not surely kept', { timeout: 60_000 });
      await see(page.getByRole('alert')).toContainText('save the job to a file now');
      await page.waitForTimeout(KEPT_WITHIN_MS);
      await context.close();
      const again = await opened(join(disk, 'profile'));
      const now = await entered(again.page);
      console.log(now === 0.61 ? 'the browser had kept the job' : 'the browser had cleared what it kept');
      if (now !== 0.61) {
        // as it was told beforehand: the file brings the job back, with its part
        const file = { name: 'saved.zip', mimeType: 'application/zip', buffer: saved };
        await again.page.getByTestId('job-file').setInputFiles(file);
        await see(again.page.getByRole('textbox', { name: 'Side allowance' })).toHaveValue('0.63', { timeout: 60_000 });
        await see(again.page.getByRole('alert')).toHaveCount(0);
      }
      await again.context.close();
    } finally {
      spawnSync('umount', ['-l', disk]);
    }
  });
});
