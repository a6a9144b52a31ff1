import { expect } from '@playwright/test';
import { choose, idle, openDemo, watchErrors } from './bench';
import { test } from './visitor';

/** A wedge of 50 x 30 x 20 mm: nothing like a part of the demo. */
function wedge(): Buffer {
  const [a, b, c, d] = ['0 0 0', '50 0 0', '50 30 0', '0 30 0'];
  const [e, f] = ['0 0 20', '0 30 20'];
  const facets = [
    [a, c, b],
    [a, d, c],
    [a, b, e],
    [d, f, c],
    [a, e, f],
    [a, f, d],
    [b, c, f],
    [b, f, e],
  ].map((p) => `facet normal 0 0 0\nouter loop\n${p.map((v) => `vertex ${v}`).join('\n')}\nendloop\nendfacet`);
  return Buffer.from(`solid wedge\n${facets.join('\n')}\nendsolid wedge\n`);
}

test('a job begins with an own part, is named, copied, found and deleted, and what was deleted comes back', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: /^Jobs/ }).click();
  const table = page.getByRole('table', { name: 'Jobs' });
  const rows = table.getByRole('row').filter({ hasText: /\./ });
  await expect(rows).toHaveCount(1);
  await page.getByTestId('new-part').setInputFiles({ name: 'wedge.stl', mimeType: 'model/stl', buffer: wedge() });
  const dialog = page.getByRole('dialog');
  // what nobody has chosen is not taken from the job that happens to be open
  const begin = dialog.getByRole('button', { name: 'Begin the job' });
  await expect(begin).toBeDisabled();
  await choose(dialog, 'Material', 'C45');
  await expect(begin).toBeDisabled();
  await choose(dialog, 'Machine', 'Three-axis machining centre');
  await choose(dialog, 'Steps', 'as in "Citrus press"');
  await begin.click();
  await expect(page.locator('.sentence')).toContainText('50.0 x 30.0 x 20.0 mm, out of 50.0 x 30.0 x 21.0 mm of C45');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('wedge / setup 1');
  await idle(page);

  await page.getByRole('link', { name: /^Jobs/ }).click();
  await expect(rows).toHaveCount(2);
  await page.getByRole('button', { name: 'Rename wedge' }).click();
  const name = page.getByRole('textbox', { name: 'Name of the job' });
  await name.fill('Chock');
  await name.press('Enter');
  await page.getByRole('button', { name: 'Done renaming Chock' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Chock');
  await page.getByRole('button', { name: 'Duplicate Chock' }).click();
  await expect(rows).toHaveCount(3);
  await page.getByRole('textbox', { name: 'Find a job' }).fill('chock 2');
  await page.getByRole('textbox', { name: 'Find a job' }).press('Enter');
  await expect(rows).toHaveCount(1);
  await page.getByRole('button', { name: 'Delete Chock 2' }).click();
  await expect(rows).toHaveCount(0);
  await page.locator('mat-snack-bar-container').getByRole('button', { name: 'Undo' }).click();
  await expect(rows).toHaveCount(1);
  // the copy is a whole job: it opens with its part
  await page.getByRole('button', { name: /^Chock 2/ }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Chock 2');
  await expect(page.locator('.caption')).toHaveText('full block, the part inside');
  expect(errors).toEqual([]);
});
