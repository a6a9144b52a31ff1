import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { choose, idle, openDemo, stepDo, watchErrors } from './bench';
import { test } from './visitor';

/** A wedge of 50 x 30 x 20 mm: nothing like a part of the demo. */
const wedge = (): Buffer => wedgeFile(0, 50, 20);
/** A stop beside it, a wedge as well. */
const stop = (): Buffer => wedgeFile(60, 70, 10);

function wedgeFile(from: number, to: number, high: number): Buffer {
  const [a, b, c, d] = [`${from} 0 0`, `${to} 0 0`, `${to} 30 0`, `${from} 30 0`];
  const [e, f] = [`${from} 0 ${high}`, `${from} 30 ${high}`];
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
  // with the part comes what holds it: of several files it is asked what each is
  await page.getByTestId('new-part').setInputFiles([
    { name: 'stop.stl', mimeType: 'model/stl', buffer: stop() },
    { name: 'wedge.stl', mimeType: 'model/stl', buffer: wedge() },
  ]);
  const dialog = page.getByRole('dialog');
  await choose(dialog, 'wedge.stl is', 'the part');
  await expect(dialog.getByRole('heading')).toContainText('wedge.stl');
  await expect(dialog.getByTestId('file-role').first()).toContainText('a fixture');
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
  await expect(page.getByRole('button', { name: 'Leave out stop.stl' })).toBeVisible();

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

test('from an own part and nothing else: a new cutter, three steps by relations, calculated, posted, saved, and the same again', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: /^Jobs/ }).click();
  await page.getByTestId('new-part').setInputFiles({ name: 'wedge.stl', mimeType: 'model/stl', buffer: wedge() });
  const dialog = page.getByRole('dialog');
  await choose(dialog, 'Material', 'X38CrMoV5-1, 52 HRC');
  await choose(dialog, 'Machine', 'Fast spindle, small table');
  await dialog.getByRole('button', { name: 'Begin the job' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('wedge / setup 1');
  await idle(page);

  // the shop's cutters came with it; one that it does not have is made from nothing
  await page.getByRole('link', { name: /^Crib/ }).click();
  await expect(page.getByText('53 of 53')).toBeVisible();
  await page.getByTestId('new-cutter').click();
  const enter = async (key: string, text: string): Promise<void> => {
    const field = page.locator(`[data-key="${key}"]`);
    await field.fill(text);
    await field.press('Enter');
  };
  await choose(dialog, 'Kind', 'flat');
  await enter('newDC', '16');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByText('54 of 54')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Assembly' })).toContainText('The shop has no T54');
  await page.getByRole('button', { name: 'Give to the shop' }).click();
  await expect(page.getByRole('complementary', { name: 'Assembly' })).toContainText("T54 is the shop's");

  // three steps, their depths by the cutter's diameter
  await page.getByRole('link', { name: /^Workplan/ }).click();
  for (const [kind, number] of [
    ['facing', 1],
    ['level-roughing', 2],
    ['rest-roughing', 3],
  ] as const) {
    await page.getByTestId('add-step').click();
    await page.getByTestId(`add-${kind}`).click();
    await expect(page.locator('.block')).toHaveCount(number);
    await choose(page, 'Assembly', number === 3 ? 'T13 high-feed 12 R1.5' : 'T54 flat 16');
    await enter('ap', number === 3 ? '0.1 DC' : '0.05 DC');
    await expect(page.locator('[data-key="ap"]')).toHaveValue(/DC/);
  }
  // hard steel wants air; what follows from the cut can be set in either quantity
  await page.getByTestId('step-2').click();
  await page.getByRole('button', { name: /Speed and feeds/ }).click();
  await expect(page.getByRole('combobox', { name: 'Coolant', exact: true })).toContainText('air, house value');
  await enter('vf', '900');
  await expect(page.getByRole('button', { name: /Speed and feeds/ })).toBeVisible();
  await stepDo(page, 'Duplicate');
  await expect(page.locator('.block')).toHaveCount(4);
  await stepDo(page, 'Switch off');
  await expect(page.getByTestId('step-3')).toContainText('off');
  await page.getByTestId('calculate-all').click();
  await idle(page);
  await expect(page.getByTestId('calculate-all')).toBeDisabled();

  await page.getByRole('link', { name: /^Release/ }).click();
  await page.getByTestId('post').click();
  await expect(page.getByTestId('release-sentence')).toContainText('Yes: the program');
  const program = page.waitForEvent('download');
  await page.getByTestId('download').click();
  const text = readFileSync(await (await program).path(), 'utf8');
  expect(text.match(/^T\d+ M6$/gm)).toEqual(['T54 M6', 'T13 M6']);
  expect(text).toContain('F900');
  expect(text).toContain('(coolant by hand: air)');

  // a thinner cutter moves what was typed by it, on both of its steps
  await page.getByRole('link', { name: /^Crib/ }).click();
  await page.getByRole('textbox', { name: 'Find' }).fill('t54');
  await page.getByRole('button', { name: '54', exact: true }).click();
  await expect(page.getByRole('complementary', { name: 'Assembly' })).toContainText('T54:');
  await enter('DC', '12');
  await page.getByRole('link', { name: /^Workplan/ }).click();
  for (const number of [1, 2]) {
    await page.getByTestId(`step-${number}`).click();
    await expect(page.locator('[data-key="ap"]')).toHaveValue('0.05 DC');
    await expect(page.getByTestId('sentence')).toContainText('0.6 mm');
  }

  // the job is the same from its file, and at the next visit
  const saved = page.waitForEvent('download');
  await page.getByRole('link', { name: /^Jobs/ }).click();
  await page.getByTestId('save-job').click();
  const file = await (await saved).path();
  await page.reload();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('wedge / setup 1');
  await page
    .getByTestId('open-job')
    .setInputFiles({ name: 'wedge.esquisse.zip', mimeType: 'application/zip', buffer: readFileSync(file) });
  await page.getByRole('dialog').getByRole('button', { name: 'Keep both' }).click();
  await page.getByRole('link', { name: /^Workplan/ }).click();
  await expect(page.locator('.block')).toHaveCount(4);
  await page.getByTestId('step-2').click();
  await expect(page.locator('[data-key="ap"]')).toHaveValue('0.05 DC');
  await expect(page.getByTestId('step-3')).toContainText('off');
  expect(errors).toEqual([]);
});
