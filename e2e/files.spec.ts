import { expect } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import { idle, openDemo, openJob, watchErrors } from './bench';
import { test } from './visitor';

const tags = (...words: (string | number)[]): string => words.join('\n');
const dxf = (...entities: string[]): string =>
  tags(
    0,
    'SECTION',
    2,
    'HEADER',
    9,
    '$INSUNITS',
    70,
    4,
    0,
    'ENDSEC',
    0,
    'SECTION',
    2,
    'ENTITIES',
    ...entities,
    0,
    'ENDSEC',
    0,
    'EOF',
  );
const line = (x: number, y: number, u: number, v: number): string => tags(0, 'LINE', 8, 0, 10, x, 20, y, 11, u, 21, v);
const drawing = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });

test('a drawing becomes the blank, with what of it was not read; a damaged one is refused in words and changes nothing', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page, '/piece');
  await openJob(page, 'Corner check, square pocket');
  await page.getByRole('link', { name: /Piece/ }).click();
  const corners = [line(0, 0, 120, 0), line(120, 110, 120, 0), line(0, 110, 120, 110), line(0, 110, 0, 0)];
  await page
    .getByTestId('outline-file')
    .setInputFiles(drawing('plate.dxf', dxf(...corners, tags(0, 'TEXT', 10, 5, 20, 5, 1, 'plate'))));
  await expect(page.getByTestId('drawing-note').last()).toHaveText('Not read: 1 TEXT.');
  await expect(page.getByText('plate.dxf, 4 corners')).toBeVisible();
  const arc = tags(0, 'ARC', 10, 0, 20, 0, 40, 10, 50, '1e17', 51, 90);
  await page.getByTestId('outline-file').setInputFiles(drawing('arc.dxf', dxf(arc)));
  await expect(page.getByRole('alert')).toContainText('an angle of 100000000000000000 degrees');
  await expect(page.getByText('plate.dxf, 4 corners')).toBeVisible();
  const gap = dxf(
    line(0, 0, 120, 0),
    line(120, 0, 120, 110),
    line(120, 110, 0, 110),
    line(0, 110, 0, 2),
    tags(0, 'CIRCLE', 10, 60, 20, 60, 40, 9),
  );
  await page.getByTestId('outline-file').setInputFiles(drawing('gap.dxf', gap));
  await expect(page.getByRole('alert')).toContainText('stays open by 2.000 mm');
  expect(errors).toEqual([]);
});

test('a job file with a bomb beside the job opens, one whose part would fill the memory is refused in words', async ({
  page,
}) => {
  await openDemo(page);
  const name = await page.getByRole('heading', { level: 1 }).innerText();
  const zip = (part: Uint8Array, more: Uint8Array): Buffer =>
    Buffer.from(zipSync({ 'job.json': strToU8('{"format":"other"}'), 'part.stl': part, more }, { level: 9 }));
  // far more than it may take to read, were it unpacked
  const bomb = new Uint8Array(400 * 2 ** 20);
  await page
    .getByTestId('job-file')
    .setInputFiles({ name: 'bomb.zip', mimeType: 'application/zip', buffer: zip(new Uint8Array(9), bomb) });
  await expect(page.getByRole('alert')).toContainText('job.json in "bomb.zip"');
  const stuffed = Buffer.from(zipSync({ 'job.json': new Uint8Array(100 * 2 ** 20) }, { level: 9 }));
  await page
    .getByTestId('job-file')
    .setInputFiles({ name: 'stuffed.zip', mimeType: 'application/zip', buffer: stuffed });
  await expect(page.getByRole('alert')).toContainText('made to fill the memory');
  expect(await page.getByRole('heading', { level: 1 }).innerText()).toBe(name);
});

test('the page answers while a large drawing is read, and the reading is stopped at once', async ({ page }) => {
  await openDemo(page, '/piece');
  await idle(page);
  // a comb of many blocks in blocks: small as a file, and long to read
  const block = (name: string, inner: string): string => tags(0, 'BLOCK', 2, name, 10, 0, 20, 0, inner, 0, 'ENDBLK');
  const insert = (name: string): string => tags(0, 'INSERT', 2, name, 10, 0, 20, 0, 70, 90, 71, 90, 44, 3, 45, 3);
  const many = Array.from({ length: 150_000 }, (_, k) => line(k % 400, k / 400, (k % 400) + 0.5, k / 400));
  const text = tags(
    0,
    'SECTION',
    2,
    'BLOCKS',
    block('A', many.join('\n')),
    0,
    'ENDSEC',
    0,
    'SECTION',
    2,
    'ENTITIES',
    insert('A'),
    0,
    'ENDSEC',
    0,
    'EOF',
  );
  await page.evaluate(() => {
    const seen = globalThis as unknown as { longest: number };
    seen.longest = 0;
    let last = performance.now();
    const look = (): void => {
      const now = performance.now();
      seen.longest = Math.max(seen.longest, now - last);
      last = now;
      setTimeout(look, 0);
    };
    look();
  });
  await page.getByTestId('outline-file').setInputFiles(drawing('many.dxf', text));
  const stop = page.getByRole('button', { name: /Stop: reading many.dxf/ });
  const refused = page.getByRole('alert');
  await expect(stop.or(refused)).toBeVisible();
  if (await stop.isVisible()) await stop.click();
  await expect(stop).toHaveCount(0);
  await idle(page);
  const longest = await page.evaluate(() => (globalThis as unknown as { longest: number }).longest);
  test.info().annotations.push({ type: 'longest wait of the page, ms', description: String(Math.round(longest)) });
  // the next file is read as if nothing had been
  const plate = dxf(line(0, 0, 180, 0), line(180, 0, 180, 140), line(180, 140, 0, 140), line(0, 140, 0, 0));
  await page.getByTestId('outline-file').setInputFiles(drawing('plate.dxf', plate));
  await expect(page.getByText('plate.dxf, 4 corners')).toBeVisible();
});

test('a table of tools with decimal commas tells what it changed', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('link', { name: /Crib/ }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'save as CSV' }).click();
  const stream = await (await download).createReadStream();
  let text = '';
  for await (const part of stream) text += String(part);
  const [head, ...rows] = text.split('\r\n').map((row) => row.split(','));
  const n = head!.indexOf('n');
  const before = rows[0]![n]!;
  rows[0]![n] = `${before.slice(0, -3)}.${before.slice(-3)}`;
  const commas = [head!, ...rows].map((row, k) =>
    row.map((c, i) => (k > 0 && i !== n ? c.replace('.', ',') : c)).join(';'),
  );
  await page.getByTestId('crib-file').setInputFiles(drawing('tools.csv', commas.join('\n')));
  await expect(page.getByTestId('table-report')).toContainText('0 added, 0 changed');
  rows[0]![n] = String(Number(before) + 10);
  const changed = [head!, ...rows].map((row, k) => row.map((c) => (k > 0 ? c.replace('.', ',') : c)).join(';'));
  await page.getByTestId('crib-file').setInputFiles(drawing('tools.csv', changed.join('\n')));
  await expect(page.getByTestId('table-report')).toContainText(`n: ${before} → ${Number(before) + 10}`);
});
