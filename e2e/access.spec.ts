import AxeBuilder from '@axe-core/playwright';
import { expect } from '@playwright/test';
import { idle, openDemo, openJob } from './bench';
import { test } from './visitor';

/** WCAG 2.2 AA by the rules of axe-core (check 24), by day and by night. */
for (const night of [false, true])
  test(
    `every place keeps to WCAG 2.2 AA ${night ? 'at night' : 'by day'}`,
    night ? { tag: '@slow' } : {},
    async ({ page }) => {
      await openDemo(page);
      if (night) await page.getByRole('button', { name: 'Night' }).click();
      for (const place of ['Jobs', 'Piece', 'Crib', 'Workplan', 'Release']) {
        await page.getByRole('link', { name: new RegExp(place) }).click();
        await expect(page.getByRole('link', { name: new RegExp(place) })).toHaveAttribute('aria-current', 'page');
        await idle(page);
        // a word about what the pointer rests on has no colour of its own while it fades in
        await page.mouse.move(640, 500);
        await expect(page.locator('.mat-mdc-tooltip-surface')).toHaveCount(0);
        const { violations } = await new AxeBuilder({ page })
          .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'])
          .options({ rules: { 'target-size': { enabled: true } } })
          .analyze();
        expect(violations.map((v) => `${place}: ${v.id} ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual(
          [],
        );
      }
    },
  );

test('enlarged to twice its size nothing scrolls sideways, and nothing is cut (WCAG 1.4.10)', async ({ page }) => {
  await openDemo(page);
  for (const [width, height] of [
    [1024, 768],
    [853, 533],
    [640, 400],
  ] as const) {
    await page.setViewportSize({ width, height });
    for (const place of ['Jobs', 'Piece', 'Crib', 'Workplan', 'Release']) {
      const link = page.getByRole('link', { name: new RegExp(place) });
      await link.click();
      await expect(link).toHaveAttribute('aria-current', 'page');
      await idle(page);
      const wide = () =>
        page.evaluate(() =>
          [
            document.documentElement,
            ...Array.from(document.querySelectorAll('main, .rows, .transport, .panel, header')),
          ]
            .filter((e) => e.scrollWidth > e.clientWidth + 1)
            .map((e) => `${e.tagName}.${e.className} ${e.scrollWidth} in ${e.clientWidth}`),
        );
      await expect.poll(async () => [width, place, await wide()]).toEqual([width, place, []]);
    }
    await page.getByRole('link', { name: /Workplan/ }).click();
    const calculate = (await page.getByTestId('calculate-all').boundingBox())!;
    expect(calculate.x + calculate.width).toBeLessThanOrEqual(width);
  }
});

test('the focus stays where the keys were: after calculating, leaving a field, a dialog, and adding a step', async ({
  page,
}) => {
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  const focused = () =>
    page.evaluate(() => document.activeElement?.getAttribute('data-testid') ?? document.activeElement?.className ?? '');
  await page.getByTestId('calculate').focus();
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('calculate')).toBeDisabled();
  await idle(page);
  expect(await focused()).toBe('calculate');
  await page.getByRole('textbox', { name: 'Side allowance' }).focus();
  await page.keyboard.press('Escape');
  expect(await focused()).toContain('row');
  await page.keyboard.press('Tab');
  expect(await page.evaluate(() => document.activeElement?.closest('esq-step-sheet') !== null)).toBe(true);
  await page.getByRole('button', { name: 'Keys' }).focus();
  await page.keyboard.press('Enter');
  const close = page.getByRole('dialog').getByRole('button', { name: 'Close' });
  await expect(close).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Keys' })).toBeFocused();
  await page.getByTestId('add-step').focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem').first()).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('add-step')).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem').first()).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.locator('.block.chosen')).toBeFocused();
});

test('the page is served with a strict policy, and with shared memory', async ({ page }) => {
  const response = await page.goto('/workplan');
  const policy = response!.headers()['content-security-policy'];
  expect(policy).toContain("script-src 'self' 'wasm-unsafe-eval'");
  expect(policy).not.toContain("'unsafe-eval'");
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
});
