import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { choose, idle, openDemo, watchErrors } from './bench';
import { test } from './visitor';

const rows = '.rows .line';

test('a cutter is found, changed by values relative to it, dragged, and its data follow the cut with their reasons', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: /Crib/ }).click();
  await expect(page.locator(rows)).toHaveCount(6);
  await choose(page, 'Kind of cutter', 'ball');
  await expect(page.locator(rows)).toHaveCount(3);
  await page.getByLabel('RE', { exact: true }).fill('3');
  await page.getByLabel('RE', { exact: true }).press('Enter');
  await expect(page.locator(rows)).toHaveCount(1);
  await page.getByLabel('RE', { exact: true }).fill('');
  await page.getByLabel('RE', { exact: true }).press('Enter');
  await page.getByLabel('DC from').fill('5 mm');
  await page.getByLabel('DC from').press('Enter');
  await expect(page.locator(rows)).toHaveCount(2);
  await choose(page, 'Kind of cutter', 'all kinds');
  await page.getByLabel('Find').fill('bull 16');
  await expect(page.locator(rows)).toHaveCount(1);
  await page.locator(rows).first().click();

  // relative to the cutter, refused with the reason where it makes no sense
  const stickOut = page.getByLabel('Stick-out', { exact: true });
  await stickOut.fill('4 DC');
  await stickOut.press('Enter');
  await expect(stickOut).toHaveValue('4 DC');
  await expect(page.getByText('= 64.000 mm')).toBeVisible();
  await stickOut.fill('4 DX');
  await stickOut.press('Enter');
  await expect(page.getByText('"DX" is not known here')).toBeVisible();
  await stickOut.fill('64');
  await stickOut.press('Enter');

  // the holder is dragged towards the tip: the stick-out gets shorter
  const handle = page.locator('.big .handle');
  const box = (await handle.boundingBox())!;
  await page.mouse.move(box.x + 20, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x - 10, box.y + box.height / 2, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Number(await stickOut.inputValue())).toBeLessThan(62);

  // speeds and feeds follow the cut, show why, and give way to an override
  await page.getByTestId('follow').click();
  const fz = page.locator('[data-key="cut-fz"]');
  const before = Number(await fz.inputValue());
  const ae = page.getByLabel('Radial depth ae', { exact: true });
  await ae.fill('10 % DC');
  await ae.press('Enter');
  await expect(ae).toHaveValue('1.6');
  await expect(page.getByTestId('cut-phi')).toContainText('36.9');
  expect(Number(await fz.inputValue())).toBeGreaterThan(before);
  await page.getByRole('button', { name: /Bending at the tip/ }).click();
  await expect(page.getByText('beam theory')).toBeVisible();
  await choose(page, 'Rigidity', 'light machine, or thin steel that rings · 0.6');
  await expect.poll(async () => Number(await fz.inputValue())).toBeLessThan(before * 1.3);
  await page.locator('[data-key="cut-vc"]').fill('100');
  await page.locator('[data-key="cut-vc"]').press('Enter');
  await expect(page.locator('[data-key="cut-n"]')).toHaveValue('1989');
  await page.getByRole('button', { name: /Cutting speed/ }).click();
  await page.getByRole('button', { name: 'Undo the override' }).click();
  await expect(page.locator('[data-key="cut-n"]')).toHaveValue('3183');
  // a plainer cutting material turns slower
  await choose(page, 'Grade, ISO 513', 'HW uncoated carbide');
  await expect(page.locator('[data-key="cut-n"]')).toHaveValue('2069');
  expect(errors).toEqual([]);
});

test('holders and extensions are shaped and held against their connections, and a value becomes the house value', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: /Crib/ }).click();
  await page.locator(rows).nth(3).click();
  const panel = page.getByRole('complementary', { name: 'Assembly' });
  await expect(panel).toContainText('T4: Ball 6');
  // an extension made up for the cutter: it stands in the sentence and lengthens the tool
  await expect(panel.getByLabel('Measured length')).toHaveAttribute('placeholder', '154.00 nominal');
  await panel.getByRole('button', { name: 'Add an extension' }).click();
  await page.getByRole('menuitem', { name: 'Shrink-fit extension 6 to 12' }).click();
  await expect(panel).toContainText('Ball 6 in Shrink-fit extension 6 to 12 in Slim shrink-fit 20');
  await expect(panel.getByLabel('Measured length')).toHaveAttribute('placeholder', '204.00 nominal');
  // what cannot be clamped is refused with both sizes, and nothing changes
  await panel.getByRole('button', { name: 'its shape and connections' }).click();
  const takes = panel.getByLabel('Clamps DCONWS');
  await takes.fill('20');
  await takes.press('Enter');
  await expect(panel.getByText(/has a connection of 8 mm, but "Slim shrink-fit 20" takes 20 mm/)).toBeVisible();
  const piece = panel.getByLabel('Slim shrink-fit 20, piece 1, length');
  await piece.fill('45');
  await piece.press('Enter');
  await expect(panel.getByLabel('Measured length')).toHaveAttribute('placeholder', '209.00 nominal');
  await panel.getByRole('button', { name: 'Another holder' }).click();
  await page.getByRole('menuitem', { name: 'New: collet', exact: true }).click();
  await expect(panel).toContainText('in collet 12');
  // the length offset of another tool would be a crash
  const offset = panel.getByLabel('Length offset H');
  await offset.fill('1');
  await offset.press('Enter');
  await expect(panel.getByText(/would share the length offset H1/)).toBeVisible();
  await offset.fill('54');
  await offset.press('Enter');
  // all rows go to paper
  await page.evaluate(() => globalThis.dispatchEvent(new Event('beforeprint')));
  await expect(page.getByTestId('printed').locator('tr')).toHaveCount(6);

  // a step's value becomes what such steps begin with, relative to the cutter, also after a reload
  await page.getByRole('link', { name: /Workplan/ }).click();
  await page.getByTestId('step-1').click();
  const ap = page.getByLabel('Axial depth ap', { exact: true });
  await ap.fill('1.6');
  await ap.press('Enter');
  await page.getByRole('button', { name: 'Keep as house value: Axial depth ap' }).click();
  await page.getByRole('button', { name: '0.1 DC', exact: true }).click();
  await page.getByRole('button', { name: /add a step/i }).click();
  await page.getByRole('menuitem', { name: /Level roughing/ }).click();
  await expect(ap).toHaveValue('1.6');
  await page.reload();
  await idle(page);
  await page.getByTestId('step-1').click();
  await choose(page, 'Assembly', 'T2 bull-nose 8 R1');
  await expect(ap).toHaveValue('0.8');
  expect(errors).toEqual([]);
});

test('a table goes out and comes in row by row with a report, thousands of rows stay at hand, and a retired tool is hidden', async ({
  page,
}) => {
  await openDemo(page);
  await page.getByRole('link', { name: /Crib/ }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'save as CSV' }).click(),
  ]);
  const text = readFileSync(await download.path(), 'utf8');
  const [head, first] = text.split('\r\n') as [string, string];
  const row = (number: number, name: string): string => first.replace(/^1,[^,]*/, `${number},${name}`);
  const many = Array.from({ length: 4900 }, (_, k) => row(k + 100, `Bull-nose ${k}`));
  const bad = row(50, 'No number').replace(/,16,/, ',sixteen,');
  await page.getByTestId('crib-file').setInputFiles({
    name: 'tools.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from([head, ...many, bad].join('\n')),
  });
  await expect(page.getByTestId('table-report')).toContainText('4900 added, 0 changed, 0 as before, 1 left out');
  await expect(page.getByTestId('table-report')).toContainText('Row 4901, DC');
  await expect(page.getByText('4906 of 4906')).toBeVisible();
  // only what is seen is drawn
  expect(await page.locator(rows).count()).toBeLessThan(60);
  await page.getByLabel('Find').fill('T4321');
  await expect(page.locator(rows)).toHaveCount(1);
  await page.locator(rows).first().click();
  await page.getByRole('button', { name: 'Retire' }).click();
  await expect(page.locator(rows)).toHaveCount(0);
  await page.getByText('retired too').click();
  await expect(page.locator(rows)).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.getByLabel('Find').fill('');
  await expect(page.getByText('6 of 6')).toBeVisible();
  await page.getByTestId('crib-file').setInputFiles({
    name: 'notes.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('a,b\n1,2'),
  });
  await expect(page.getByRole('alert')).toContainText('its heading lacks');
  // a whole crib: every entry that is wrong is told, and nothing is taken
  const [whole] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'save as JSON' }).click(),
  ]);
  const crib = JSON.parse(readFileSync(await whole.path(), 'utf8')) as { cutters: { DC: unknown }[] };
  crib.cutters[1]!.DC = 'eight';
  crib.cutters[3]!.DC = -6;
  await page.getByTestId('crib-file').setInputFiles({
    name: 'crib.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify(crib)),
  });
  await expect(page.getByTestId('table-report')).toContainText('Row 2, cutters DC');
  await expect(page.getByTestId('table-report')).toContainText('Row 4, cutters DC');
  await expect(page.getByText('6 of 6')).toBeVisible();
  await idle(page);
});

test('the list for the presetter goes out and comes back with what was measured; another cutter is left out', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: /^Crib/ }).click();
  await page.getByTestId('magazine-open').click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByTestId('magazine-told')).toHaveText('0 of 4 tools of this job are loaded, 4 to put in.');
  await dialog.getByRole('button', { name: 'Changes made' }).click();
  await expect(dialog.getByTestId('magazine-told')).toHaveText('All 4 tools of this job are loaded.');
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'List for the presetter' }).click();
  const lines = readFileSync(await (await download).path(), 'utf8').split('\r\n');
  expect(lines).toHaveLength(5);
  await dialog.getByRole('button', { name: 'Close' }).click();
  const measured = lines.map((line, k) => {
    const cells = line.split(',');
    const length = cells[5]!;
    if (k === 1) cells[8] = String(Number(length) + 0.037);
    if (k === 2) cells[9] = '12';
    return cells.join(',');
  });
  await page
    .getByTestId('crib-file')
    .setInputFiles({ name: 'measured.csv', mimeType: 'text/csv', buffer: Buffer.from(measured.join('\r\n')) });
  const report = page.getByTestId('table-report');
  await expect(report).toContainText('0 added, 1 changed, 2 as before, 1 left out.');
  await expect(report).toContainText(/T1 measuredLength: not measured .* \d+\.037/);
  await expect(report).toContainText('T2 measures 12 mm, and is to be 8 mm: it is another cutter.');
  expect(errors).toEqual([]);
});
