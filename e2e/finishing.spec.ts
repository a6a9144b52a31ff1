import { expect } from '@playwright/test';
import { choose, idle, openDemo, openJob, watchErrors } from './bench';
import { test } from './visitor';

test('a pocket is finished by slope-split, its rest by a smaller ball and its corners traced; ridges are told as measured', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('calculate-all').click();
  await expect(page.getByTestId('calculate-all')).toBeDisabled();
  await idle(page);
  const add = async (kind: string): Promise<void> => {
    await page.getByTestId('add-step').click();
    await page.getByTestId(`add-${kind}`).click();
    await expect(page.getByRole('textbox', { name: 'Name of the step' })).toBeVisible();
  };
  const calculate = async (): Promise<void> => {
    await page.getByTestId('calculate').click();
    await idle(page);
    await expect(page.getByText('Nothing but the edges touches steel; no gouge.')).toBeVisible();
  };
  await add('slope-split');
  await expect(page.getByTestId('sentence')).toContainText('at constant height where it is steeper than 40°');
  const scallop = page.getByLabel('Scallop height', { exact: true });
  await scallop.fill('0.05');
  await scallop.press('Enter');
  // what it will come to is told before: with the length as it then comes out
  const told = page.getByTestId('expected');
  await expect(told).toContainText(/Will cut about/);
  await expect(told).toContainText('Drawn on the part');
  const before = Number(/([\d.]+) m,/.exec(await told.innerText())![1]);
  await calculate();
  await expect(told).toBeHidden();
  const ways = await page.getByText('cut / air / rapid').locator('..').innerText();
  const [cut, air] = ways.match(/[\d.]+/g)!.map(Number);
  expect(Math.abs(before / (cut! + air!) - 1)).toBeLessThan(0.25);
  await expect(page.getByTestId('ridges')).toContainText('asked 0.0500');
  await page.getByTestId('ridges').getByRole('button').first().click();
  await expect(page.getByRole('table', { name: "Ridges by the part's slope" })).toContainText('75 to 90°');

  // a finish that is asked for again goes on with its cutter; only the rest of it is left to do for a smaller one
  const cutter = page.getByRole('combobox', { name: 'Assembly' });
  const own = (await cutter.innerText()).trim();
  await add('corner-tracing');
  await expect(page.getByTestId('sentence')).toContainText(own);
  await calculate();

  // cutters and patterns are compared before one is chosen; a pattern is taken by a click
  await add('slope-split');
  await page.getByTestId('compare').click();
  await expect(page.getByTestId('pattern-parallel-passes')).toBeVisible();
  await expect(page.locator('[data-testid^="finisher-"]').first()).toContainText(/corners .* needs/);
  await page.getByTestId('pattern-even-scallop').click();

  // even scallop does both at once, on every slope
  await expect(page.getByTestId('sentence')).toContainText('on every slope, borders first');
  await scallop.fill('0.05');
  await scallop.press('Enter');
  await choose(page, 'Order', 'borders last');
  await calculate();
  await expect(page.getByTestId('ridges')).toContainText('asked 0.0500');

  await add('waterline');
  await choose(page, 'Rest from', `as after ${own}`);
  await expect(page.getByLabel('Overlap with its ground', { exact: true })).toBeVisible();
  await expect(page.getByTestId('sentence')).toContainText('only the rest of an earlier cutter');
  // what is its own cutter leaves nothing to itself
  await page.getByLabel('Overlap with its ground', { exact: true }).fill('0');
  await page.getByLabel('Overlap with its ground', { exact: true }).press('Enter');
  await page.getByTestId('calculate').click();
  await idle(page);
  await expect(page.getByText(/No wall steeper than 40° is reached/)).toBeVisible();
  expect(errors).toEqual([]);
});

test('a holder that is too low: the step tells how far, cuts only what clears, and a longer cutter does the rest', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: /Crib/ }).click();
  await page.getByText('Ball 6', { exact: true }).first().click();
  await expect(page.getByRole('complementary', { name: 'Assembly' })).toContainText('T4:');
  const stickOut = page.getByLabel('Stick-out', { exact: true });
  await stickOut.fill('30');
  await stickOut.press('Enter');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.getByTestId('step-4').click();
  await page.getByTestId('calculate').click();
  await expect(page.getByRole('button', { name: /The holder is .* too low.*Show/ })).toBeVisible();
  await expect(page.getByTestId('reach')).toContainText('of 30.0 mm, too short');
  await page.getByTestId('way-divide').click();

  // the step itself keeps to what clears, the one behind it has a cutter of its own and takes the rest
  await expect(page.getByTestId('sentence')).toContainText('only the rest of an earlier cutter');
  await expect(page.getByRole('combobox', { name: 'Kept off by' })).toContainText('edges, shank and holder');
  await page.getByTestId('calculate').click();
  await expect(page.getByTestId('calculate')).toBeDisabled();
  await idle(page);
  await expect(page.getByText('Nothing but the edges touches steel; no gouge.')).toBeVisible();
  await page.getByTestId('step-4').click();
  await expect(page.getByRole('combobox', { name: 'Shank and holder' })).toContainText('cut only what they clear');
  await expect(page.getByText('Nothing but the edges touches steel; no gouge.')).toBeVisible();
  await expect(page.getByTestId('reach')).not.toContainText('too short');
  expect(errors).toEqual([]);
});

test('a finishing step is held to faces that are pressed on the bench; pressed again a face is let go', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByTestId('add-step').click();
  await page.getByTestId('add-parallel-passes').click();
  await page.getByRole('button', { name: 'Faces …' }).click();
  await page.getByRole('menuitem', { name: 'Only on picked faces' }).click();
  const limit = page.getByTestId('limit');
  await expect(limit).toContainText('no face yet');
  const canvas = page.locator('esq-bench canvas');
  await page.getByRole('button', { name: 'Top', exact: true }).click();
  // seen from above the pocket's floor lies in the middle
  await canvas.click();
  await expect(limit).toContainText('one face');
  await canvas.click();
  await expect(limit).toContainText('no face yet');
  await limit.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByTestId('face-trouble')).toHaveText('Pick faces, or remove this limit.');
  // and it is not calculated as if there were no limit
  await page.getByTestId('calculate').click();
  await expect(page.getByText(/No face is picked yet/)).toBeVisible();
  await limit.getByRole('button', { name: 'Pick' }).click();
  await canvas.click();
  await expect(limit).toContainText('one face');
  await page.keyboard.press('Escape');
  await page.getByTestId('calculate').click();
  await idle(page);
  await expect(page.getByText('Nothing but the edges touches steel; no gouge.')).toBeVisible();
  expect(errors).toEqual([]);
});
