import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { figure, idle, openDemo, openJob, removeStep, watchErrors } from './bench';

test('from an insert to a posted program: two steps added, worked out, scrubbed, posted, downloaded, found again', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page, '/workplan', { isFirstVisit: true });
  // nobody was here before: the demo has worked itself out
  await expect(page.getByTestId('calculate-all')).toBeDisabled();
  await openJob(page, 'Trowel grip, die half');
  // begin with an empty plan
  for (const left of [2, 1, 0]) {
    await removeStep(page);
    await expect(page.locator('.block')).toHaveCount(left);
  }
  await expect(page.getByText('The workplan has no step yet.')).toBeVisible();

  await page.keyboard.press('a');
  await page.getByTestId('add-level-roughing').click();
  await expect(page.getByTestId('step-1')).toContainText('Level roughing');
  await page.getByTestId('add-step').click();
  await page.getByTestId('add-parallel-passes').click();
  await expect(page.getByTestId('step-2')).toContainText('Parallel passes');
  await expect(page.getByTestId('sentence')).toContainText('Follows the part with T3 ball 10');

  const scallop = page.getByLabel('Scallop height', { exact: true });
  await scallop.fill('0.05');
  await scallop.press('Enter');
  await expect(page.getByTestId('sentence')).toContainText('scallops of 0.05 mm');

  await page.getByTestId('calculate-all').click();
  await idle(page);
  await expect(page.getByTestId('step-2')).toContainText(/\d:\d\d/);
  await expect(page.getByTestId('calculate-all')).toBeDisabled();

  await page.getByRole('radio', { name: /Leftover/ }).click();
  await expect(page.getByTestId('leftover-median')).toBeVisible();
  await page.getByTestId('step-2').click();
  await expect(page.getByText(/step 2, motion/)).toBeVisible();
  await expect.poll(() => figure(page, 'median')).toBeLessThan(0.1);
  const finished = await figure(page, 'median');
  expect(await figure(page, 'gouge')).toBeLessThan(0.01);

  // back on the time line the steel is thicker
  await page.getByTestId('step-1').click();
  await expect.poll(() => figure(page, 'median')).toBeGreaterThan(finished + 0.1);
  const roughed = await figure(page, 'median');
  await page.getByTestId('scrub').fill('300');
  await expect(page.getByText(/step 1, motion/)).toBeVisible();
  await expect.poll(() => figure(page, 'median')).toBeGreaterThan(roughed + 0.1);
  await expect(page.getByTestId('readout')).toContainText(/X .*Y .*Z .*S \d+/);

  // one key looks at a step before, after, by what is left over, and as the part
  const chosen = (name: RegExp) => expect(page.getByRole('radio', { name })).toBeChecked();
  await page.getByTestId('step-1').click();
  await chosen(/Leftover/);
  await page.keyboard.press('b');
  await chosen(/Part/);
  await page.keyboard.press('b');
  await chosen(/Steel/);
  await expect(page.getByText(/step 1, motion 0$/)).toBeVisible();
  await page.keyboard.press('b');
  await expect(page.getByText(/step 1, motion 0$/)).toHaveCount(0);
  await chosen(/Steel/);
  const [steel] = await Promise.all([page.waitForEvent('download'), page.getByTestId('save-steel-3mf').click()]);
  expect(steel.suggestedFilename()).toBe('steel.3mf');
  await page.keyboard.press('b');
  await chosen(/Leftover/);
  await expect(page.getByRole('img', { name: /Removal rate from the step/ })).toBeVisible();

  await page.getByRole('link', { name: /Release/ }).click();
  await page.getByTestId('post').click();
  await expect(page.getByTestId('release-sentence')).toContainText('Yes: the program may go to the machine.');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('download').click()]);
  expect(download.suggestedFilename()).toBe('program-die-half.nc');
  const text = readFileSync(await download.path(), 'utf8');
  expect(text.startsWith('%\n(die half)\nG21')).toBe(true);
  expect(text.trimEnd().endsWith('M30\n%')).toBe(true);
  expect(text).toContain('T1 M6');
  expect(text).toContain('T3 M6');
  // what the setter sets: each tool with its length offset, as the text calls it
  await expect(page.getByTestId('tools').getByRole('row')).toHaveCount(3);
  for (const number of [1, 3]) {
    await expect(page.getByTestId('tools').getByRole('row', { name: `T${number} ` })).toContainText(`H${number}`);
    expect(text).toContain(`H${number}`);
  }
  // the line of the playhead, and the motion of a line
  const find = page.getByRole('textbox', { name: 'Find in the program' });
  await find.fill('T3 M6');
  await find.press('Enter');
  await expect(page.getByRole('search')).toContainText('1 place');
  await expect(page.locator('.cm-line.here')).toHaveText(/T3 M6/);
  await page.locator('.cm-line').filter({ hasText: /^X/ }).last().click();
  await expect(page.getByText(/step 2, motion/)).toBeVisible();
  await expect(page.locator('.cm-line.here')).toHaveText(/^X/);

  await page.reload();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('die half');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await idle(page);
  await expect(page.locator('.block')).toHaveCount(2);
  // what was worked out is there again without being asked for
  await expect(page.getByTestId('step-2')).toContainText(/\d:\d\d/);
  await page.getByTestId('step-2').click();
  await expect(page.getByLabel('Scallop height', { exact: true })).toHaveValue('0.05');
  expect(errors).toEqual([]);
});

test('the page answers while a step is worked out, and the work can be stopped', async ({ page }) => {
  // somebody was here before: the demo waits to be calculated
  await page.addInitScript(() => localStorage.setItem('esquisse.visited', 'yes'));
  await openDemo(page);
  await page.getByTestId('calculate-all').click();
  await expect(page.getByRole('status')).toContainText(/step 1/);
  await page.getByRole('link', { name: /Crib/ }).click();
  await expect(page.getByRole('cell', { name: 'Bull-nose 16 R2' }).first()).toBeVisible();
  await page.getByRole('button', { name: 'stop' }).click();
  await idle(page);
  await page.getByRole('link', { name: /Workplan/ }).click();
  await expect(page.getByTestId('calculate-all')).toBeEnabled();
  await expect(page.getByRole('alert')).toHaveCount(0);
});
