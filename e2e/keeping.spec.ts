import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { idle, openDemo, openJob, watchErrors } from './bench';
import { test } from './visitor';

test('undo right after a value was entered takes it back, with the field still in hand', async ({ page }) => {
  await openDemo(page);
  const field = page.getByRole('textbox', { name: 'Side allowance' });
  await field.fill('0.7');
  await field.press('Control+z');
  // nothing was entered yet: the field's own undo
  await field.fill('0.7');
  await field.press('Enter');
  await expect(page.locator('.sentence')).toContainText('0.7');
  await field.press('Control+z');
  await expect(field).toHaveValue('0.4');
  await field.press('Control+y');
  await expect(field).toHaveValue('0.7');
});

test('a value is changed, taken back and done again, and what cannot be taken says why under its field', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  const depth = page.getByLabel('Axial depth ap', { exact: true });
  await expect(depth).toHaveValue('2');
  await depth.fill('1.5');
  await depth.press('Enter');
  await expect(page.getByTestId('sentence')).toContainText('1.5 mm levels');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByTestId('sentence')).toContainText('2 mm levels');
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByTestId('sentence')).toContainText('1.5 mm levels');
  for (const bad of ['deep', '-3', '0']) {
    await depth.fill(bad);
    await depth.press('Enter');
    await expect(depth).toHaveAttribute('aria-invalid', 'true');
    await expect(page.getByTestId('sentence')).toContainText('1.5 mm levels');
  }
  await page.reload();
  await idle(page);
  await expect(page.getByLabel('Axial depth ap', { exact: true })).toHaveValue('1.5');
  expect(errors).toEqual([]);
});

test('broken and foreign files are refused in words and leave the open job as it was', async ({ page }) => {
  await openDemo(page, '/piece');
  const sentence = page.locator('.sentence');
  await expect(sentence).toContainText('170.0 x 130.0 x 70.0 mm');
  const broken: [string, string, RegExp][] = [
    [
      'broken.stl',
      'solid broken\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0',
      /The STL file was cut off/,
    ],
    ['broken.stl', 'nothing like a part', /not an STL file/],
    ['part.step', 'ISO-10303-21;\nHEADER;', /cut off/],
    ['drawing.pdf', '%PDF-1.7', /of a kind that is not read/],
  ];
  for (const [name, text, message] of broken) {
    await page
      .getByTestId('part-file')
      .setInputFiles({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(text) });
    await expect(page.getByRole('alert')).toContainText(message);
    await expect(sentence).toContainText('170.0 x 130.0 x 70.0 mm');
    await page.getByRole('button', { name: 'Close message' }).click();
  }
  // dropped on the page, as well
  const data = await page.evaluateHandle(() => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([new Uint8Array(90)], 'half.stl'));
    return transfer;
  });
  await page.dispatchEvent('esq-piece', 'drop', { dataTransfer: data });
  await expect(page.getByRole('alert')).toContainText(/no triangle|not an STL/);
  await page.getByTestId('job-file').setInputFiles({
    name: 'holiday.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from([0x50, 0x4b, 3, 4, 1, 2, 3]),
  });
  await expect(page.getByRole('alert')).toContainText(/damaged or was cut off/);
  await expect(sentence).toContainText('170.0 x 130.0 x 70.0 mm');
});

test(
  'a part from an STL file, block and work zero, saved to one file and opened again',
  { tag: '@slow' },
  async ({ page }) => {
    await openDemo(page, '/piece');
    await openJob(page, 'Trowel grip, die half');
    const corners = [
      [0, 0],
      [40, 0],
      [40, 30],
      [0, 30],
    ];
    const facet = (...p: number[][]): string =>
      `facet normal 0 0 0\nouter loop\n${p.map((v) => `vertex ${v.join(' ')}`).join('\n')}\nendloop\nendfacet\n`;
    let text = 'solid block\n';
    for (let k = 0; k < 4; k++) {
      const [a, b] = [corners[k]!, corners[(k + 1) % 4]!];
      text += facet([...a, 0], [...b, 0], [...b, 12]) + facet([...a, 0], [...b, 12], [...a, 12]);
    }
    for (const z of [0, 12])
      text += facet([0, 0, z], [40, 0, z], [40, 30, z]) + facet([0, 0, z], [40, 30, z], [0, 30, z]);
    await page
      .getByTestId('part-file')
      .setInputFiles({ name: 'small.stl', mimeType: 'model/stl', buffer: Buffer.from(`${text}endsolid block\n`) });
    await expect(page.locator('.sentence')).toContainText('40.0 x 30.0 x 12.0 mm, out of 40.0 x 30.0 x 13.0 mm');
    const side = page.getByLabel('Allowance at −X', { exact: true });
    await side.fill('5');
    await side.press('Enter');
    await expect(page.locator('.sentence')).toContainText('out of 45.0 x 30.0 x 13.0 mm');
    await page.getByRole('button', { name: 'X low, Y low' }).click();
    await expect(page.getByTestId('probe')).toContainText('the corner of the -X side and the -Y side');
    await idle(page);

    await page.getByRole('button', { name: 'Jobs' }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: 'Save the whole job to a file' }).click(),
    ]);
    const zip = readFileSync(await download.path());
    await openJob(page, 'Citrus press, core insert');
    const open = (): Promise<void> =>
      page.getByTestId('job-file').setInputFiles({ name: 'mine.zip', mimeType: 'application/zip', buffer: zip });
    // it is kept here already: nothing is overwritten without being asked
    await open();
    const question = page.getByRole('dialog');
    await expect(question).toContainText('"mine.zip"');
    await question.getByRole('button', { name: 'Cancel' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('core insert');
    await open();
    await question.getByRole('button', { name: 'Keep both' }).click();
    await expect(page.locator('.sentence')).toContainText('out of 45.0 x 30.0 x 13.0 mm');
    await idle(page);
    await page.getByRole('button', { name: 'Jobs' }).click();
    await expect(page.getByRole('menuitem', { name: /Kept: Trowel grip/ })).toHaveCount(1);
    await page.keyboard.press('Escape');
    await expect(page.getByRole('button', { name: 'X low, Y low' })).toHaveAttribute('aria-pressed', 'true');
  },
);

test('a job is saved again into the file that was chosen for it; what cannot be written is told and not called saved', async ({
  page,
}) => {
  const errors = watchErrors(page);
  // the browser's own question for a file cannot be answered here: it gets one in the page's private files
  await page.addInitScript(() => {
    Object.assign(window, {
      showSaveFilePicker: async () =>
        (await navigator.storage.getDirectory()).getFileHandle('own.esquisse.zip', { create: true }),
    });
  });
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  const saved = page.getByRole('banner').getByText(/saved to a file|in no file yet/);
  await expect(saved).toHaveText('in no file yet');
  await page.getByRole('button', { name: 'Jobs' }).click();
  await page.getByRole('menuitem', { name: 'Save it to a chosen file …' }).click();
  await expect(saved).toContainText('saved to a file');
  // a file that is replaced while it is read cannot be read to its end: it is read again
  const written = (): Promise<number[]> =>
    page.evaluate(async () => {
      const handle = await (await navigator.storage.getDirectory()).getFileHandle('own.esquisse.zip');
      for (;;) {
        try {
          return [...new Uint8Array(await (await handle.getFile()).arrayBuffer())];
        } catch (error) {
          if (!(error instanceof DOMException && error.name === 'NotReadableError')) throw error;
        }
      }
    });
  const first = Buffer.from(await written());

  await page.getByTestId('step-1').click();
  const name = page.getByRole('textbox', { name: 'Name of the step' });
  await name.fill('Saved again');
  await name.press('Enter');
  await expect(page.getByTestId('step-1')).toContainText('Saved again');
  await name.blur();
  await page.keyboard.press('Control+s');
  await expect.poll(async () => Buffer.from(await written()).equals(first)).toBe(false);
  const zip = Buffer.from(await written());

  // a file that is not to be written any more
  await page.evaluate(() => {
    FileSystemFileHandle.prototype.createWritable = () =>
      Promise.reject(new DOMException('no leave to write', 'NotAllowedError'));
  });
  await page.keyboard.press('Control+s');
  await expect(page.getByRole('alert')).toContainText('“own.esquisse.zip” could not be written'.replace(/[“”]/g, '"'));
  expect(Buffer.from(await written()).equals(zip)).toBe(true);

  await page.getByTestId('job-file').setInputFiles({ name: 'own.zip', mimeType: 'application/zip', buffer: zip });
  await page.getByRole('dialog').getByRole('button', { name: 'Keep both' }).click();
  await expect(page.getByTestId('step-1')).toContainText('Saved again');
  expect(errors).toEqual([]);
});
