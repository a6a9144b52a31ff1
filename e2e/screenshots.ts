import { expect, type Page, test } from '@playwright/test';
import { idle, openDemo, openJob } from './bench';

/** Takes pictures, and waits until there is something to take. */
function pictures(page: Page): { shot: (name: string) => Promise<unknown>; rest: () => Promise<void> } {
  const shot = (name: string) => page.screenshot({ path: `docs/screenshots/${name}.png` });
  /** The bench draws on request; two pictures that are the same mean it has come to rest. */
  const rest = async (): Promise<void> => {
    await idle(page);
    await expect
      .poll(async () => {
        const before = await page.screenshot();
        await page.waitForTimeout(700);
        return before.equals(await page.screenshot());
      })
      .toBe(true);
  };
  return { shot, rest };
}

test('pictures of the main views', async ({ page }) => {
  const { shot, rest } = pictures(page);
  // at a first visit the demo works itself out
  await openDemo(page, '/workplan', { isFirstVisit: true });
  await expect(page.getByTestId('calculate-all')).toBeDisabled();
  await idle(page);
  await page.waitForTimeout(2500);
  await page.getByRole('link', { name: /^Jobs/ }).click();
  await expect(page.locator('.picture img')).toBeVisible();
  await shot('jobs');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.getByTestId('step-1').click();
  await page.getByTestId('scrub').fill('1450');
  await rest();
  await shot('workplan');
  await page.getByTestId('step-2').click();
  await page.keyboard.press('3');
  await expect(page.getByTestId('leftover-median')).toBeVisible();
  await rest();
  await shot('leftover');
  for (const place of ['Piece', 'Crib']) {
    await page.getByRole('link', { name: new RegExp(place) }).click();
    if (place === 'Piece') {
      await expect(page.locator('.advice')).toBeVisible();
      await page.getByRole('radio', { name: 'Inside radius' }).click();
    }
    await rest();
    await shot(place.toLowerCase());
  }
  await page.keyboard.press('2');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.getByTestId('step-4').click();
  const ridges = page.getByTestId('ridges');
  await ridges.locator('mat-expansion-panel-header').click();
  await expect(ridges.getByRole('table')).toBeVisible();
  await ridges.getByRole('table').evaluate((table) => table.scrollIntoView({ block: 'center' }));
  await page.keyboard.press('7');
  await expect(page.getByText('Ridges that the chosen step leaves')).toBeVisible();
  await rest();
  await shot('ridges');
  await page.getByTestId('compare').click();
  await expect(page.getByTestId('pattern-even-scallop')).toBeVisible();
  await page.getByTestId('pattern-even-scallop').scrollIntoViewIfNeeded();
  await page.keyboard.press('5');
  await rest();
  await shot('compare');
  await page.getByTestId('compare').click();
  await page.keyboard.press('2');
  await page.getByRole('link', { name: /Release/ }).click();
  await page.getByTestId('post').click();
  await expect(page.getByTestId('download')).toBeVisible();
  await rest();
  await shot('release');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.getByTestId('step-4').click();
  await page.getByRole('button', { name: 'Night' }).click();
  await rest();
  await shot('night');
  await page.getByRole('button', { name: 'Day' }).click();
  await page.getByRole('link', { name: /Crib/ }).click();
  await page.getByText('Ball 6', { exact: true }).first().click();
  await expect(page.getByRole('complementary', { name: 'Assembly' })).toContainText('T4:');
  await page.getByLabel('Stick-out', { exact: true }).fill('30');
  await page.getByLabel('Stick-out', { exact: true }).press('Enter');
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.getByTestId('step-4').click();
  await page.getByTestId('calculate').click();
  await expect(page.getByRole('button', { name: /The holder is .* too low.*Show/ })).toBeVisible();
  await page.getByTestId('way-divide').scrollIntoViewIfNeeded();
  await page.keyboard.press('6');
  await page.getByRole('button', { name: 'Next finding' }).click();
  await rest();
  await shot('reach');
  await page.keyboard.press('2');
  await page.getByRole('button', { name: 'Faces …' }).click();
  await page.getByRole('menuitem', { name: 'Only on picked faces' }).click();
  const bench = page.locator('esq-bench canvas');
  const box = (await bench.boundingBox())!;
  for (const [x, y] of [
    [0.5, 0.5],
    [0.4, 0.42],
  ] as const) {
    await bench.click({ position: { x: x * box.width, y: y * box.height } });
    await rest();
  }
  await shot('faces');
});

test('pictures of a plate', async ({ page }) => {
  const { shot, rest } = pictures(page);
  await openDemo(page);
  await openJob(page, 'Citrus press, base plate');
  await page.getByTestId('calculate-all').click();
  await idle(page);
  await page.getByText('Drill for M6').first().click();
  await rest();
  await shot('plate');
  await page.getByTestId('step-1').click();
  await page.keyboard.press('8');
  await page.getByTestId('scrub').fill('500');
  await rest();
  await shot('load');
  await page.getByRole('link', { name: /Piece/ }).click();
  await page.getByTestId('part-steps').click();
  await expect(page.getByRole('dialog')).toContainText('Tap M8');
  await rest();
  await shot('steps');
});
