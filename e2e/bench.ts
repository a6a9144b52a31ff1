import { expect, type Locator, type Page } from '@playwright/test';

/** Where the page keeps that somebody was here before. */
const VISITED = 'esquisse.visited';

/** Opens the application and waits until the part lies in the view; at a first visit until the demo has worked itself out as well. */
export async function openDemo(
  page: Page,
  path = '/workplan',
  { isFirstVisit = false }: { isFirstVisit?: boolean } = {},
): Promise<void> {
  if (!isFirstVisit) await page.addInitScript((key) => localStorage.setItem(key, 'yes'), VISITED);
  await page.goto(path);
  await expect(page.getByText(/full block|steel at|part and block/)).toBeVisible();
  await idle(page);
}

/** Waits until no work is going on. */
export async function idle(page: Page): Promise<void> {
  await expect(page.getByRole('banner').getByRole('status')).toHaveCount(0);
}

/** Opens one of the demo's jobs from the menu. */
export async function openJob(page: Page, title: string): Promise<void> {
  await page.getByRole('button', { name: 'Jobs' }).click();
  const entry = page.getByRole('menuitem', { name: `Demo: ${title}` });
  await expect(entry).toBeVisible();
  // a press that falls between two places of a menu that still opens chooses nothing: a person presses again
  await expect(async () => {
    if (await entry.isVisible()) await entry.click({ timeout: 10_000 });
    await expect(entry).toBeHidden({ timeout: 10_000 });
  }).toPass();
  await expect(page.getByRole('heading', { level: 1 })).toContainText(title.split(', ')[1]!);
  await idle(page);
}

/** Fails the test on anything that the page logs as an error. */
export function watchErrors(page: Page): string[] {
  const errors: string[] = [];
  page.on('console', (message) => {
    if (message.type() === 'error') errors.push(message.text());
  });
  page.on('pageerror', (error) => errors.push(String(error)));
  return errors;
}

export async function figure(page: Page, name: string): Promise<number> {
  const text = await page.getByTestId(`leftover-${name}`).innerText();
  return Number(text.replace('\u2212', '-').replace(/[^\d.-]/g, ''));
}

/** Chooses of a list by its label. */
export async function choose(within: Page | Locator, label: string | Locator, option: string): Promise<void> {
  const list = typeof label === 'string' ? within.getByRole('combobox', { name: label, exact: true }) : label;
  await list.click();
  await list.page().getByRole('option', { name: option, exact: true }).click();
}

/** Waits until all that was moved so far is drawn. */
export async function settled(page: Page): Promise<void> {
  await page.evaluate(async () => {
    for (let frame = 0; frame < 4; frame++) await new Promise((next) => requestAnimationFrame(next));
  });
}

/** Something done with the chosen step as a whole. */
export async function stepDo(page: Page, what: string): Promise<void> {
  await page.getByTestId('step-menu').click();
  await page.getByRole('menuitem', { name: what }).click();
  await expect(page.getByRole('menu')).toHaveCount(0);
}

export const removeStep = (page: Page): Promise<void> => stepDo(page, 'Remove the step');
