import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { idle, openDemo } from './bench';

/** WCAG 2.2 AA by the rules of axe-core (check 24), by day and by night. */
for (const night of [false, true])
  test(`every place keeps to WCAG 2.2 AA ${night ? 'at night' : 'by day'}`, async ({ page }) => {
    await openDemo(page);
    if (night) await page.getByRole('button', { name: 'Night' }).click();
    for (const place of ['Piece', 'Crib', 'Workplan', 'Release']) {
      await page.getByRole('link', { name: new RegExp(place) }).click();
      await expect(page.getByRole('link', { name: new RegExp(place) })).toHaveAttribute('aria-current', 'page');
      await idle(page);
      const { violations } = await new AxeBuilder({ page })
        .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
        .analyze();
      expect(violations.map((v) => `${place}: ${v.id} ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual(
        [],
      );
    }
  });

test('the page is served with a strict policy, and with shared memory', async ({ page }) => {
  const response = await page.goto('/workplan');
  const policy = response!.headers()['content-security-policy'];
  expect(policy).toContain("script-src 'self' 'wasm-unsafe-eval'");
  expect(policy).not.toContain("'unsafe-eval'");
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
});
