import { readFileSync } from 'node:fs';
import { type BrowserContext, expect, type Page } from '@playwright/test';
import { choose, idle, openDemo, openJob } from './bench';
import { test } from './visitor';

/** What is shown is of this very job, what is posted is of what is shown, and what was typed is kept. */

async function posted(page: Page): Promise<string> {
  await page.getByRole('link', { name: /Release/ }).click();
  await page.getByTestId('post').click();
  await expect(page.getByTestId('release-sentence')).toContainText('Yes: the program may go to the machine.');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('download').click()]);
  return readFileSync(await download.path(), 'utf8');
}

async function calculated(page: Page): Promise<void> {
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.getByTestId('calculate-all').click();
  await idle(page);
  await expect(page.getByTestId('calculate-all')).toBeDisabled();
}

/** Whatever is still calculated, or is asked for now. */
async function broughtUpToDate(page: Page): Promise<void> {
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.keyboard.press('r');
  await expect(page.getByTestId('calculate-all')).toBeDisabled();
}

async function setValue(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByLabel(label, { exact: true });
  await field.fill(value);
  await field.press('Enter');
}

/** Keeps hold of the page's threads, so that a test can end one as the browser does when memory runs out. */
async function holdThreads(context: BrowserContext): Promise<void> {
  await context.addInitScript(() => {
    const held: Worker[] = [];
    const Own = globalThis.Worker;
    globalThis.Worker = class extends Own {
      constructor(url: string | URL, options?: WorkerOptions) {
        super(url, options);
        held.push(this);
        Object.assign(this, { threadName: options?.name ?? '' });
      }
    };
    Object.assign(globalThis, {
      endThread: (name: string) =>
        held.findLast((worker) => (worker as unknown as { threadName: string }).threadName.includes(name))?.terminate(),
    });
  });
}

const endThread = (page: Page, name: string): Promise<void> =>
  page.evaluate((what) => (globalThis as unknown as { endThread(n: string): void }).endThread(what), name);

test('the block is made higher while a step is calculated, and taken back: the program is the undisturbed one', async ({
  page,
  browser,
}) => {
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('calculate-all').click();
  await page.getByRole('link', { name: /Piece/ }).click();
  await setValue(page, 'Allowance above', '10');
  await expect(page.locator('.sentence')).toContainText('out of');
  await page.getByRole('button', { name: 'Undo' }).click();
  await idle(page);
  await broughtUpToDate(page);
  const disturbed = await posted(page);

  const other = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const calm = await other.newPage();
  await openDemo(calm);
  await openJob(calm, 'Corner check, square pocket');
  await calculated(calm);
  const undisturbed = await posted(calm);
  await other.close();
  expect(disturbed).toBe(undisturbed);
});

test('another job is opened while one is calculated: that one is called off, and this one calculates', async ({
  page,
}) => {
  await openDemo(page);
  await page.getByTestId('calculate-all').click();
  await expect(page.getByRole('status')).toContainText(/step|Calculating/);
  await openJob(page, 'Corner check, square pocket');
  await calculated(page);
  const own = await posted(page);
  expect(own).toContain('(square pocket)');
  await openJob(page, 'Citrus press, cavity insert');
  await page.getByRole('link', { name: /Workplan/ }).click();
  // nothing of the other job's steps stands here as this one's
  await expect(page.getByTestId('calculate-all')).toBeEnabled();
});

test('feeds and offsets are timed and posted again without planning a step anew', async ({ page }) => {
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await calculated(page);
  const before = await posted(page);
  await page.getByRole('link', { name: /Piece/ }).click();
  await choose(page, 'Work offset', 'G56');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await expect(page.getByTestId('calculate-all')).toBeDisabled();
  const after = await posted(page);
  expect(after).toBe(before.replaceAll('G54', 'G56'));
});

test('keys act after the playhead was dragged, and stay quiet in menus and on what Space itself presses', async ({
  page,
}) => {
  await openDemo(page);
  await openJob(page, 'Trowel grip, die half');
  await calculated(page);
  await page.getByTestId('step-3').click();
  const scrub = page.getByTestId('scrub');
  const box = (await scrub.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.9, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.8, box.y + box.height / 2, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.press('3');
  await expect(page.getByRole('radio', { name: /Leftover/ })).toBeChecked();
  await page.keyboard.press(' ');
  await expect(page.getByTestId('play')).toHaveAccessibleName('Stop');
  await page.keyboard.press(' ');
  await expect(page.getByTestId('play')).toHaveAccessibleName('Play');

  const jobs = page.getByRole('button', { name: 'Jobs' });
  await jobs.press('Enter');
  await expect(page.getByRole('menuitem').first()).toBeFocused();
  await page.keyboard.press('2');
  await page.keyboard.press('Escape');
  // a menu that closes gives the focus back to what opened it
  await expect(page.getByRole('menu')).toHaveCount(0);
  await expect(jobs).toBeFocused();
  await expect(page.getByRole('radio', { name: /Leftover/ })).toBeChecked();

  // a panel is opened by Space, and nothing plays
  const header = page.getByTestId('unfinished').locator('mat-expansion-panel-header');
  await header.focus();
  await page.keyboard.press(' ');
  await expect(header).toHaveAttribute('aria-expanded', 'true');
  await expect(page.getByTestId('play')).toHaveAccessibleName('Play');
});

test('the error of a field goes with its step, and where a trouble is mended is one press away', async ({ page }) => {
  await openDemo(page);
  await openJob(page, 'Trowel grip, die half');
  await page.getByTestId('step-1').click();
  const depth = page.getByLabel('Axial depth ap', { exact: true });
  await depth.fill('0');
  await depth.press('Enter');
  await expect(depth).toHaveAttribute('aria-invalid', 'true');
  await page.getByTestId('step-2').click();
  await expect(page.locator('[aria-invalid="true"]')).toHaveCount(0);
  await page.getByTestId('step-1').click();
  await expect(depth).not.toHaveAttribute('aria-invalid', 'true');

  await openJob(page, 'Corner check, square pocket');
  await page.getByRole('link', { name: /Piece/ }).click();
  await setValue(page, 'Allowance at −X', '4000');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await expect(page.getByRole('alert')).toContainText(/travels/);
  await page.getByRole('alert').getByRole('button', { name: 'Show' }).click();
  await expect(page).toHaveURL(/piece/);
});

test('importing a part can be taken back', async ({ page }) => {
  await openDemo(page, '/piece');
  await openJob(page, 'Corner check, square pocket');
  await expect(page.locator('.sentence')).toContainText('100.0 x 100.0 x 30.0 mm');
  const sentence = await page.locator('.sentence').innerText();
  const facet = (...p: number[][]): string =>
    `facet normal 0 0 0\nouter loop\n${p.map((v) => `vertex ${v.join(' ')}`).join('\n')}\nendloop\nendfacet\n`;
  const peak = [10, 8, 15];
  const foot = [
    [0, 0, 0],
    [30, 0, 0],
    [30, 20, 0],
    [0, 20, 0],
  ];
  const text =
    foot.map((a, k) => facet(a, foot[(k + 1) % 4]!, peak)).join('') +
    facet(foot[2]!, foot[1]!, foot[0]!) +
    facet(foot[3]!, foot[2]!, foot[0]!);
  await page
    .getByTestId('part-file')
    .setInputFiles({ name: 'tent.stl', mimeType: 'model/stl', buffer: Buffer.from(`solid t\n${text}endsolid t\n`) });
  await expect(page.locator('.sentence')).toContainText('30.0 x 20.0 x 15.0 mm');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('.sentence')).toHaveText(sentence);
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.locator('.sentence')).toContainText('30.0 x 20.0 x 15.0 mm');
});

/** Number of jobs that the browser keeps for this page. */
const keptJobs = (): Promise<number> =>
  new Promise((resolve, reject) => {
    const opening = indexedDB.open('esquisse');
    opening.onerror = () => reject(new Error('The database was not opened.'));
    opening.onsuccess = () => {
      const counting = opening.result.transaction('jobs').objectStore('jobs').count();
      counting.onsuccess = () => {
        opening.result.close();
        resolve(counting.result);
      };
    };
  });

test('a second tab reads only until it takes the job over, and then the first one does', async ({ page, context }) => {
  await openDemo(page);
  // the second tab opens the job that the first one has kept
  await expect.poll(() => page.evaluate(keptJobs)).toBe(1);
  const second = await context.newPage();
  await openDemo(second);
  await expect(second.getByTestId('read-only')).toContainText('open in another tab');
  await expect(page.getByTestId('read-only')).toHaveCount(0);
  await setValue(page, 'Axial depth ap', '1.25');
  await setValue(second, 'Axial depth ap', '0.8');
  await expect(second.getByTestId('sentence')).not.toContainText('0.8 mm levels');
  await second.getByRole('button', { name: 'Take it over' }).click();
  // as the first one left it
  await expect(second.getByTestId('sentence')).toContainText('1.25 mm levels');
  await expect(second.getByTestId('read-only')).toHaveCount(0);
  await expect(page.getByTestId('read-only')).toBeVisible();
  await setValue(second, 'Axial depth ap', '0.9');
  await expect(second.getByTestId('sentence')).toContainText('0.9 mm levels');
});

test('a browser that keeps nothing says so at once, and work goes on to a file', async ({ page }) => {
  await page.addInitScript(() => {
    // the page keeps jobs itself where no thread can, and has no room either
    const Started = Worker;
    globalThis.Worker = class extends Started {
      constructor(url: string | URL, options?: WorkerOptions) {
        if (options?.name?.includes('keeping')) throw new Error('No thread');
        super(url, options);
      }
    };
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('No room', 'QuotaExceededError');
    };
  });
  await openDemo(page);
  await setValue(page, 'Axial depth ap', '1.5');
  await expect(page.getByTestId('saved')).toHaveText('not kept');
  await expect(page.getByRole('alert')).toContainText(/only a file keeps it/);
  await expect(page.getByTestId('sentence')).toContainText('1.5 mm levels');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('alert').getByRole('button', { name: 'Save the job to a file' }).click(),
  ]);
  expect(readFileSync(await download.path()).length).toBeGreaterThan(1000);
});

test('a thread that dies is told and started again, and nothing of the job is lost', async ({ page, context }) => {
  await holdThreads(context);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await setValue(page, 'Axial depth ap', '1.5');
  for (const thread of ['planner', 'helper']) {
    await page.getByTestId('calculate-all').click();
    await endThread(page, thread);
    await expect(page.getByRole('alert')).toContainText('Nothing of the job is lost');
    await page.getByRole('button', { name: 'Close message' }).click();
    await idle(page);
    await expect(page.getByTestId('sentence')).toContainText('1.5 mm levels');
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Redo' }).click();
  }
  await broughtUpToDate(page);
  await posted(page);
});

test('a page that was served without shared memory says how to mend it', async ({ page }) => {
  await page.route('**/*', async (route) => {
    const response = await route.fetch();
    const headers = Object.fromEntries(
      Object.entries(response.headers()).filter(([name]) => !name.startsWith('cross-origin')),
    );
    await route.fulfill({ response, headers });
  });
  await page.goto('/workplan');
  await expect(page.getByRole('alert')).toContainText('Cross-Origin-Opener-Policy: same-origin');
});
