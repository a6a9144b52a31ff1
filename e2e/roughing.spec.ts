import { expect, type Page } from '@playwright/test';
import { choose, idle, openDemo, openJob, watchErrors } from './bench';
import { test } from './visitor';

/** Area of the region that the sheet tells, cm². */
async function regionArea(page: Page): Promise<number> {
  const text = await page.getByTestId('region').innerText();
  return Number(/([\d.]+) cm²/.exec(text)?.[1] ?? NaN);
}

async function type(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByLabel(label, { exact: true });
  await field.fill(value);
  await field.press('Enter');
}

test(
  'what is left in corners: the region follows its values, cutters are compared, and a step begins with the chosen one',
  { tag: '@slow' },
  async ({ page }) => {
    const errors = watchErrors(page);
    await openDemo(page);
    await openJob(page, 'Corner check, square pocket');
    await page.getByTestId('step-2').click();
    await expect(page.getByTestId('region')).toContainText('before it is not up to date');
    // as after a named cutter the region is known without the step before
    await page.getByTestId('step-1').click();
    await page.getByTestId('calculate').click();
    await idle(page);
    await page.getByTestId('step-2').click();
    await expect(page.getByTestId('region')).toContainText('thicker than 2.000 mm');
    const thick = await regionArea(page);
    await type(page, 'Rest thickness above the allowance', '0.1');
    await expect(page.getByTestId('region')).toContainText('thicker than 0.100 mm');
    // four corners of 33.53 mm² less the thin ends of each, and no wall
    const all = await regionArea(page);
    expect(all).toBeGreaterThan(thick + 0.2);
    expect(all).toBeLessThan((4 * 33.6) / 100);
    await page.keyboard.press('Escape');
    await page.keyboard.press('4');
    await expect(page.getByText('where the chosen step would cut', { exact: true })).toBeVisible();

    await choose(page, 'Rest from', 'as after T7 flat 25');
    await expect(page.getByTestId('sentence')).toContainText('as after an earlier cutter');
    await type(page, 'Its side allowance', '2');
    await type(page, 'Its bottom allowance', '2');
    await expect.poll(() => regionArea(page)).toBeGreaterThan(0.85 * all);
    expect(await regionArea(page)).toBeLessThan(1.15 * all);
    await choose(page, 'Rest from', 'the steel as it is');

    await page.getByTestId('compare').click();
    const small = page.getByTestId('next-t8');
    await expect(small).toContainText(/9\d %/);
    await expect(page.getByTestId('next-t7')).toContainText(/flat 25\d %/);
    await page.getByTestId('next-t5').click();
    await expect(page.getByTestId('sentence')).toContainText('T5 flat 10');
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByTestId('sentence')).toContainText('T8 flat 5');

    // the chooser of the next step starts from the steel at its place
    await page.getByTestId('step-1').click();
    await page.getByTestId('add-step').click();
    await page.getByTestId('compare-rest-roughing').click();
    await page.getByRole('menu').getByTestId('next-t6').click();
    await expect(page.getByTestId('step-2')).toContainText('Rest roughing');
    await expect(page.getByTestId('sentence')).toContainText('T6 ball 4');
    expect(errors).toEqual([]);
  },
);

test('stairs that roughing leaves on purpose are told in the region of the next step, and left by one press', async ({
  page,
}) => {
  await openDemo(page);
  await page.getByTestId('step-1').click();
  await page.getByTestId('calculate').click();
  await idle(page);
  await page.getByTestId('step-2').click();
  await type(page, 'Rest thickness above the allowance', '');
  const stairs = page.getByTestId('stairs');
  // 0.02 mm of both paths and 0.35 of a cell
  await expect(page.getByTestId('region')).toContainText('thicker than 0.120 mm');
  await expect(stairs).toContainText('on purpose');
  const all = await regionArea(page);
  await stairs.getByRole('button', { name: /Leave them/i }).click();
  await expect(stairs).toHaveCount(0);
  await expect.poll(() => regionArea(page)).toBeLessThan(0.8 * all);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => regionArea(page)).toBe(all);
  await expect(stairs).toBeVisible();
});

test('a step is held in plan by the block, by a drawing and by places of the part, and says what it cannot take', async ({
  page,
}) => {
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('step-1').click();
  await page.getByRole('button', { name: 'Block', exact: true }).click();
  const limit = page.getByTestId('limit');
  await expect(limit).toHaveCount(1);
  await expect(limit).toContainText('outline of the block');
  await choose(limit, 'Cutter stops', 'whole cutter inside');
  await type(page, 'Outline wider by', '900');
  await expect(limit.getByText(/500/)).toBeVisible();
  await type(page, 'Outline wider by', '-5');
  await expect(limit.getByText(/500/)).toHaveCount(0);
  await page.getByTestId('limit-file').setInputFiles({
    name: 'ring.svg',
    mimeType: 'image/svg+xml',
    buffer: Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><rect x="0" y="0" width="40" height="30"/></svg>'),
  });
  await expect(limit).toHaveCount(2);
  await page
    .getByTestId('limit-file')
    .setInputFiles({ name: 'x.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg/>') });
  await expect(page.getByRole('alert')).toBeVisible();
  await expect(limit).toHaveCount(2);
  await page.getByRole('button', { name: 'Remove limit 1' }).click();
  await page.getByRole('button', { name: 'Remove limit 1' }).click();
  await expect(limit).toHaveCount(0);
  // a shape is drawn by its sizes, and refuses those that cannot be
  await page.getByRole('button', { name: 'Shape …' }).click();
  await page.getByRole('menuitem', { name: 'Within a rectangle' }).click();
  await expect(limit).toContainText('a rectangle');
  await type(page, 'Width', '20');
  await type(page, 'Corner radius', '12');
  await expect(limit.getByText(/half of the shorter side is 10 mm/)).toBeVisible();
  await type(page, 'Corner radius', '4');
  await expect(limit.getByText(/half of the shorter side/)).toHaveCount(0);
  await page.getByRole('button', { name: 'Remove limit 1' }).click();
  await expect(limit).toHaveCount(0);

  // a row of the survey lights its place, which the step then keeps clear of
  await page.getByRole('link', { name: /Piece/ }).click();
  await page.getByRole('button', { name: /closed, floor 49\.0 cm²/ }).click();
  await page.getByRole('button', { name: 'keep clear of it' }).click();
  await page.getByRole('link', { name: /Workplan/ }).click();
  await expect(limit).toContainText('clear of');
  await type(page, 'Distance', '0');
  await page.getByTestId('calculate').click();
  // the block is as high as the part: beside the pocket nothing is left to cut
  await expect(page.getByRole('alert')).toContainText('no level to cut');
  await page.getByRole('button', { name: 'Close message' }).click();
  await page.getByRole('button', { name: 'Remove limit 1' }).click();
  await page.getByTestId('calculate').click();
  await idle(page);
  await expect(page.getByTestId('step-time')).toBeVisible();
});

test('facing takes the block down to the part, and refuses a face inside it', async ({ page }) => {
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('step-1').click();
  await page.getByTestId('add-step').click();
  await page.getByTestId('add-facing').click();
  await expect(page.getByTestId('sentence')).toContainText('the top of the part');
  await type(page, 'Face at height', '-4');
  await page.getByTestId('calculate').click();
  await expect(page.getByRole('alert')).toContainText('mm higher than the face');
  await page.getByRole('button', { name: 'Close message' }).click();
  await choose(page, 'Pattern', 'loops towards the wall');
  await expect(page.getByLabel('Angle of the passes', { exact: true })).toHaveCount(0);
});

test('a step of steady load: width and engagement angle are one value, and its way is clear of the part', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('step-1').click();
  await page.getByTestId('step-menu').click();
  await page.getByRole('menuitem', { name: 'Another kind' }).click();
  await page.getByRole('menuitem', { name: 'Steady-load roughing' }).click();
  await expect(page.getByTestId('sentence')).toContainText('deep, never wider than');
  await type(page, 'Engagement angle', '60');
  const diameter = Number(
    (
      await page
        .getByText(/^DC \d/)
        .first()
        .innerText()
    ).replace(/^DC ([\d.]+)[^]*$/, '$1'),
  );
  // ae = DC (1 - cos 60°) / 2
  await expect(page.getByRole('textbox', { name: 'Radial depth ae', exact: true })).toHaveValue(String(diameter / 4));
  await page.getByTestId('calculate').click();
  await idle(page);
  await expect(page.getByText('Nothing but the edges touches steel; no gouge.')).toBeVisible();
  await type(page, 'Radial depth ae', String(0.6 * diameter));
  await page.getByTestId('calculate').click();
  await expect(page.getByRole('alert')).toContainText('at most half the cutter');
  expect(errors).toEqual([]);
});

test('how hard a step cuts is told over its time and on the steel; a feed can follow it, and its rival is one press away', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('step-1').click();
  await page.getByTestId('calculate').click();
  await idle(page);
  const load = page.getByTestId('step-load');
  await load.getByRole('button', { name: /^Load:/ }).click();
  await expect(
    load.getByRole('img', { name: /^Engagement angle over the step's time, \d+° at the most/ }),
  ).toBeVisible();
  // the hardest place is where the step stands then
  await load.getByRole('button', { name: 'Show the most of Cutting power' }).click();
  await expect(page.getByText(/steel at .*, step 1, motion \d+/)).toBeVisible();
  await load.getByTestId('show-load').click();
  await expect(page.getByText('half the way')).toBeVisible();
  await choose(page, 'Load', 'Cutting power Pc');
  await expect(page.getByLabel('Lengths in steel of the whole step, by this load')).toBeVisible();

  const time = await page.getByTestId('step-time').innerText();
  await page.getByRole('button', { name: /^Speed and feeds/ }).click();
  await choose(page, 'Feed follows', 'Cutting power');
  await expect(page.getByTestId('plain-time')).toContainText(time);
  await expect(page.getByTestId('step-time')).not.toHaveText(time);
  // steel and path are the same: nothing has to be calculated anew
  await expect(page.getByTestId('calculate')).toBeDisabled();
  await type(page, 'Least feed', '300');
  await expect(page.locator('mat-error')).toContainText('At most 100 %');
  await type(page, 'Least feed', '60');

  await page.getByTestId('compare-rival').click();
  await expect(page.getByTestId('rivals')).toBeVisible();
  await page.getByTestId('take-rival').click();
  await expect(page.getByTestId('sentence')).toContainText('deep, never wider than');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('sentence')).not.toContainText('never wider than');
  expect(errors).toEqual([]);
});
