import { expect, test } from '@playwright/test';
import { choose, idle, openDemo, openJob, watchErrors } from './bench';

test('steps are proposed for the holes of a part by what each sort is for, calculated behind the others, and posted', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Citrus press, base plate');
  await page.getByRole('link', { name: 'Piece' }).click();
  // the whole part: what was found of it, and steps whose cutters can be changed before they are taken
  await page.getByTestId('part-steps').click();
  const whole = page.getByRole('dialog', { name: 'Steps for this part' });
  await expect(whole.getByText('Tightest corner of upright walls')).toBeVisible();
  await expect(whole.getByRole('button', { name: 'Take 16 steps' })).toBeVisible();
  await choose(whole, 'Cutter of Floors', 'T20 flat 6');
  await whole.getByRole('checkbox', { name: 'Walls' }).uncheck();
  await whole.getByRole('checkbox', { name: 'Break sharp edges' }).check();
  await expect(whole.getByRole('button', { name: 'Take 16 steps' })).toBeVisible();
  await whole.getByRole('button', { name: 'Cancel' }).click();
  await page.getByTestId('hole-steps').click();
  const dialog = page.getByRole('dialog', { name: 'Steps for holes' });
  await expect(dialog.getByText('Tap M8')).toBeVisible();
  // a sort of hole that is only drilled needs no tap
  await choose(dialog, '2 x ⌀ 6.80 blind, up to 16.0 mm deep', 'drilled');
  await expect(dialog.getByText('Tap M8')).toBeHidden();
  await dialog.getByRole('checkbox', { name: 'Spot' }).uncheck();
  await dialog.getByRole('button', { name: 'Take 7 steps' }).click();
  await expect(page).toHaveURL(/workplan/);
  await expect(page.getByTestId('sentence')).toContainText('Drills blind holes of ⌀ 4.98');
  // each cutter is asked for what it has
  await expect(page.getByRole('combobox', { name: 'Chips of a drill' })).toBeVisible();
  await page.getByRole('button', { name: 'Calculate all' }).click();
  await idle(page);
  await expect(page.getByText('Nothing but the edges touches steel; no gouge.')).toBeVisible();
  await page.getByRole('link', { name: /Release/ }).click();
  await page.getByTestId('post').click();
  await idle(page);
  await expect(page.getByTestId('release-sentence')).toContainText('Yes: the program may go to the machine.');
  await expect(page.getByText(/G99 G84/).first()).toBeVisible();
  expect(errors).toEqual([]);
});
