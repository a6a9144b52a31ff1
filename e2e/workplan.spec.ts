import { expect, type Page } from '@playwright/test';
import { choose, idle, openDemo, openJob, removeStep, settled, watchErrors } from './bench';
import { test } from './visitor';

/** Ends of the axes of the rose: they tell where the camera looks from. */
const rose = (page: Page) =>
  page.locator('.rose line').evaluateAll((lines) => lines.map((l) => [l.getAttribute('x2'), l.getAttribute('y2')]));
const caption = (page: Page) => page.locator('.caption');

test('the whole path is in sight and can be pressed, filtered and coloured; the sheet goes with the playhead unless pinned', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('calculate-all').click();
  await expect(page.getByTestId('calculate-all')).toBeDisabled();
  await idle(page);
  await page.getByTestId('step-1').click();
  await expect(caption(page)).toContainText('step 1');
  const end = await caption(page).innerText();
  // dense loops fill the pocket in the middle of the view
  const canvas = page.locator('esq-bench canvas');
  const box = (await canvas.boundingBox())!;
  await canvas.click({ position: { x: box.width / 2, y: box.height / 2 } });
  await expect(caption(page)).not.toHaveText(end);
  await expect(caption(page)).toContainText('step 1');
  // what is not drawn cannot be pressed
  const pressed = await caption(page).innerText();
  for (const kind of ['Cut', 'Entry, exit', 'Link', 'Rapid'])
    await page.getByRole('checkbox', { name: kind }).uncheck();
  await canvas.click({ position: { x: box.width / 2 + 30, y: box.height / 2 } });
  await expect(caption(page)).toHaveText(pressed);
  await page.getByRole('checkbox', { name: 'Cut' }).check();
  await choose(page, 'Colour by', 'feed');
  await expect(page.getByRole('img', { name: /feed from .* mm\/min to .* mm\/min/ })).toBeVisible();

  const name = page.getByRole('textbox', { name: 'Name of the step' });
  const second = page.getByTestId('step-2');
  const own = (await second.locator('.title').innerText()).replace(/^2 /, '');
  await second.click();
  await expect(name).toHaveValue(own);
  await page.keyboard.press(';');
  await page.keyboard.press(';');
  await expect(caption(page)).toContainText('step 1');
  await expect(name).not.toHaveValue(own);
  await second.click();
  await page.getByRole('button', { name: 'Pin this sheet' }).click();
  await page.getByTestId('scrub').fill('100');
  await expect(caption(page)).toContainText('step 1');
  await expect(name).toHaveValue(own);
  await page.getByRole('button', { name: 'Show its sheet' }).click();
  await expect(name).not.toHaveValue(own);
  expect(errors).toEqual([]);
});

test('the strip keeps its names readable, is drawn longer along time, and steps are moved by drag and by button', async ({
  page,
}) => {
  await openDemo(page);
  const isCut = () =>
    page.locator('.block').evaluateAll((all) => all.some((block) => block.scrollWidth > block.clientWidth + 1));
  expect(await isCut()).toBe(false);
  await page.setViewportSize({ width: 800, height: 700 });
  expect(await isCut()).toBe(false);
  await page.setViewportSize({ width: 1280, height: 800 });
  await settled(page);
  const block = page.getByTestId('step-1');
  const before = (await block.boundingBox())!.width;
  await page.getByRole('button', { name: 'Longer strip' }).click();
  await expect.poll(async () => (await block.boundingBox())!.width).toBeGreaterThan(1.8 * before);
  await page.getByRole('button', { name: 'Shorter strip' }).click();
  await expect.poll(async () => (await block.boundingBox())!.width).toBeLessThan(1.1 * before);

  await expect(block).toContainText('Open up');
  const from = (await block.boundingBox())!;
  const to = (await page.getByTestId('step-2').boundingBox())!;
  await page.mouse.move(from.x + 20, from.y + 30);
  await page.mouse.down();
  await page.mouse.move(from.x + 60, from.y + 30);
  await page.mouse.move(to.x + to.width - 10, to.y + 30, { steps: 4 });
  await page.mouse.up();
  await expect(block).toContainText('Open corners');
  await page.getByRole('button', { name: 'Move the step earlier' }).click();
  await expect(block).toContainText('Open up');
  // what was removed is brought back by the notice
  await removeStep(page);
  await expect(page.locator('.block')).toHaveCount(3);
  await page.locator('mat-snack-bar-container').getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('.block')).toHaveCount(4);
});

test('columns keep the widths that they were drawn to, and the bench its camera from place to place; lost graphics come back', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  const panel = page.getByRole('complementary', { name: 'Step sheet' });
  const width = async (): Promise<number> => (await panel.boundingBox())!.width;
  const before = await width();
  const gutter = page.getByRole('separator', { name: 'Width of the column' }).last();
  const at = (await gutter.boundingBox())!;
  await page.mouse.move(at.x + 2, at.y + 200);
  await page.mouse.down();
  await page.mouse.move(at.x - 58, at.y + 200, { steps: 4 });
  await page.mouse.up();
  await expect.poll(width).toBeGreaterThan(before + 50);
  const drawn = await width();
  await page.reload();
  await expect(caption(page)).toHaveText('full block, the part inside');
  expect(Math.abs((await width()) - drawn)).toBeLessThan(3);

  const canvas = page.locator('esq-bench canvas');
  const box = (await canvas.boundingBox())!;
  const isometric = await rose(page);
  await page.mouse.move(box.x + 100, box.y + 300);
  await page.mouse.down();
  await page.mouse.move(box.x + 220, box.y + 340, { steps: 4 });
  await page.mouse.up();
  await expect.poll(() => rose(page)).not.toEqual(isometric);
  await settled(page);
  const turned = await rose(page);
  for (const place of ['Crib', 'Piece', 'Workplan']) {
    await page.getByRole('link', { name: new RegExp(place) }).click();
    await expect(page.getByRole('link', { name: new RegExp(place) })).toHaveAttribute('aria-current', 'page');
  }
  await expect(canvas).toBeVisible();
  expect(await rose(page)).toEqual(turned);
  await page.getByRole('button', { name: 'More …' }).click();
  await page.getByRole('menuitem', { name: 'Underside' }).click();
  await expect.poll(() => rose(page)).not.toEqual(turned);

  const lose = await canvas.evaluateHandle((element) =>
    (element as HTMLCanvasElement).getContext('webgl2')!.getExtension('WEBGL_lose_context'),
  );
  await lose.evaluate((graphics) => graphics!.loseContext());
  await expect(page.getByText('The graphics of this machine took the view away')).toBeVisible();
  await lose.evaluate((graphics) => graphics!.restoreContext());
  await expect(page.getByText('The graphics of this machine took the view away')).toHaveCount(0);
  expect(errors.filter((e) => !e.includes('Context Lost'))).toEqual([]);
});

test('lengths are shown and typed in inches, and what is kept and posted stays in mm', async ({ page }) => {
  const errors = watchErrors(page);
  await openDemo(page);
  const depth = page.getByRole('textbox', { name: 'Axial depth ap', exact: true });
  const sentence = page.getByTestId('sentence');
  await expect(depth).toHaveValue('2');
  await page.getByTestId('unit').click();
  await expect(depth).toHaveValue('0.07874');
  await expect(sentence).toContainText('0.0787 in levels');
  await depth.fill('0.05');
  await depth.press('Enter');
  await expect(sentence).toContainText('0.0500 in levels');
  // a factor is none of inches, and a unit that is named holds
  await depth.fill('1 mm');
  await depth.press('Enter');
  await expect(depth).toHaveValue('0.03937');
  await depth.fill('9 in');
  await depth.press('Enter');
  await expect(page.locator('mat-error')).toContainText('3.93701 in');
  await depth.press('Escape');
  await page.reload();
  // the unit is the person's, the value the job's
  await expect(depth).toHaveValue('0.03937');
  await page.getByTestId('unit').click();
  await expect(depth).toHaveValue('1');
  await expect(sentence).toContainText('1 mm levels');
  expect(errors).toEqual([]);
});

test('a height of the step is dragged on the bench, called off by Escape, and undone', async ({ page }) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('step-1').click();
  await page.getByRole('button', { name: 'Front', exact: true }).click();
  const value = page.getByRole('textbox', { name: 'From height', exact: true });
  await expect(value).toHaveValue('');
  const canvas = page.locator('esq-bench canvas');
  const box = (await canvas.boundingBox())!;
  /** Takes hold of the open height at the block's top: the highest frame in the picture. */
  const take = async (): Promise<[number, number]> => {
    const x = box.x + box.width / 2;
    for (let y = box.y + 40; y < box.y + box.height - 10; y += 3) {
      await page.mouse.move(x, y);
      if (await canvas.evaluate((c) => c.classList.contains('height'))) {
        await page.mouse.down();
        return [x, y];
      }
    }
    throw new Error('no height can be taken hold of');
  };
  let [x, y] = await take();
  await page.mouse.move(x, y + 20);
  await expect(caption(page)).toHaveText(/^From height .*\d mm$/);
  await canvas.press('Escape');
  await page.mouse.up();
  await expect(caption(page)).not.toContainText('From height');
  await expect(value).toHaveValue('');
  [x, y] = await take();
  await page.mouse.move(x, y + 8);
  await page.mouse.move(x, y + 25);
  const told = (await caption(page).innerText()).replace('−', '-');
  await page.mouse.up();
  const z = Number(/-?[\d.]+/.exec(told)![0]);
  await expect(value).toHaveValue(String(z));
  // the view is not turned by it, and what was dragged is undone like what was typed
  await page.keyboard.press('Control+z');
  await expect(value).toHaveValue('');
  expect(errors).toEqual([]);
});
