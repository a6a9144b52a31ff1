import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import { choose, figure, idle, openDemo, openJob, watchErrors } from './bench';
import { test } from './visitor';

const part = 'demo/parts/trowel-grip.stl';

test('a part is looked over, laid, held, given steel and zero, and everything can be taken back', async ({ page }) => {
  const errors = watchErrors(page);
  await openDemo(page, '/piece');
  await expect(page.locator('.advice')).toContainText('the tightest inside radius is 2.00 mm');
  await expect(page.locator('.advice')).toContainText('A corner radius of 1.9');

  // every row lights its place; a flat becomes a limit of the chosen step
  await page.getByRole('button', { name: /^45\.8 cm²/ }).click();
  await page
    .getByRole('region', { name: 'Height' })
    .getByRole('button', { name: /Down to height/ })
    .click();
  await page.getByRole('link', { name: /Workplan/ }).click();
  await expect(page.getByLabel('Down to height', { exact: true })).toHaveValue('-52');
  await page.getByRole('link', { name: /Piece/ }).click();
  await page.keyboard.press('Control+z');

  // so does the steel over it, each zone with a step that clears it down to its floor
  await page.getByRole('button', { name: /^Step for pocket, 45\.8 deep/ }).click();
  await page.getByRole('menuitem', { name: 'Level roughing' }).click();
  await expect(page.getByTestId('step-5')).toContainText('Level roughing');
  await expect(page.getByLabel('Down to height', { exact: true })).toHaveValue('-52');
  await page.getByRole('link', { name: /Piece/ }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('zone').filter({ hasText: 'above' })).toContainText('1.0 deep');
  await expect(page.getByTestId('zone').filter({ hasText: '4 holes' })).toBeVisible();

  // upside down: told with figures, and the better way offered
  await page.getByRole('button', { name: 'flip' }).click();
  await expect(page.getByTestId('hidden-warning')).toContainText('is not seen from +Z');
  await page.getByRole('button', { name: /Lay it with/ }).click();
  await expect(page.getByTestId('hidden-warning')).toHaveCount(0);

  // pointing: two faces, their measures, and zero from a pick
  await page.getByRole('button', { name: 'Top', exact: true }).click();
  const canvas = (await page.locator('esq-bench canvas').boundingBox())!;
  const at = (x: number, y: number): Promise<void> =>
    page.mouse.click(canvas.x + canvas.width * x, canvas.y + canvas.height * y);
  await at(0.35, 0.5);
  await expect(page.getByTestId('measure-thickness behind')).toContainText('19.000');
  await expect(page.getByTestId('measure-height')).toContainText('52.000');
  await at(0.65, 0.5);
  await expect(page.getByTestId('measure-height between')).toContainText('0.000');
  await page.getByRole('button', { name: 'blank of this outline' }).click();
  await expect(page.getByText('edges around the level face, ')).toBeVisible();
  await expect(page.getByRole('alert')).toContainText(/stands out of the block|stands out of the blank/);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await at(0.65, 0.5);
  await page.getByRole('button', { name: 'work zero here' }).click();
  await expect(page.getByTestId('probe')).toContainText('Probe in Z the level face');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('region', { name: 'Picked' })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('probe')).toContainText('the middle of the 170 x 130 mm face');

  // steel that does not hold the part says so where it can be mended
  await choose(page, 'Blank', 'round bar, upright');
  const diameter = page.getByLabel('Diameter', { exact: true });
  await diameter.fill('150');
  await diameter.press('Enter');
  await expect(page.getByRole('alert')).toContainText(/stands out of the block by .* in X/);
  // a job in that state opens again, with the reason, and can be mended
  await page.reload();
  await expect(page.getByRole('alert')).toContainText(/stands out of the block by .* in X/);
  await expect(diameter).toHaveValue('150');
  await diameter.fill('220');
  await diameter.press('Enter');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expect(page.getByTestId('weight')).toContainText(/2[01]\.\d\d/);
  await page.getByRole('button', { name: 'next standard size' }).click();
  await expect(page.getByText('170.0 x 130.0 x 76.0').first()).toBeVisible();

  // the house list keeps a changed machine over a reload
  await page.getByRole('button', { name: 'change its values' }).last().click();
  const name = page.getByLabel('Name', { exact: true });
  await name.fill('Machine by the window');
  await name.press('Enter');
  await page.getByRole('button', { name: 'keep in the house list' }).click();
  await expect(page.getByTestId('house-kept')).toBeVisible();
  await page.reload();
  await idle(page);
  await expect(page.getByRole('combobox', { name: 'Machine', exact: true })).toContainText('Machine by the window');
  await page.getByRole('combobox', { name: 'Machine', exact: true }).click();
  const machines = page.getByRole('option');
  await expect(machines.filter({ hasText: 'Machine by the window' })).toHaveCount(1);
  await expect(machines).toHaveCount(4);
  await page.keyboard.press('Escape');
  const [lists] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'save the house lists' }).click(),
  ]);
  expect(readFileSync(await lists.path(), 'utf8')).toContain('Machine by the window');
  expect(errors).toEqual([]);
});

test('a lens is brushed on its histogram, by drag and by keys', async ({ page }) => {
  await openDemo(page, '/piece');
  await page.getByRole('radio', { name: 'Inside radius' }).click();
  const bars = page.getByRole('group', { name: /^Radius of a ball that fits/ });
  await expect(bars).toBeVisible();
  const box = (await bars.boundingBox())!;
  await page.mouse.move(box.x + 80, box.y + 5);
  await page.mouse.down();
  await page.mouse.move(box.x + 80, box.y + 5 + 7 * 3, { steps: 3 });
  await page.mouse.up();
  await expect(page.getByTestId('brushed')).toContainText(/^R 0 to 4: \d+\.\d cm²/);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.getByTestId('brushed')).toContainText('R 1 to 6');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('brushed')).toHaveCount(0);
  // on the plain part a brush on the slopes shows them
  await page.getByRole('radio', { name: 'Plain' }).click();
  await page.getByRole('group', { name: /^Slope from level/ }).press('ArrowDown');
  await expect(page.getByRole('radio', { name: 'Slope' })).toBeChecked();
  await expect(page.getByTestId('brushed')).toContainText('0° to 5°');
});

test('the bodies of a file each show what they are, and the one that is the blank is the block', async ({ page }) => {
  await openDemo(page, '/piece');
  // two bodies in one package: a small block in a larger one
  const box = (s: number, z: number): string => {
    const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => [k & 1 ? s : -s, k & 2 ? s : -s, k & 4 ? z : -20]);
    const faces = [
      '0 2 3',
      '0 3 1',
      '4 5 7',
      '4 7 6',
      '0 1 5',
      '0 5 4',
      '2 6 7',
      '2 7 3',
      '0 4 6',
      '0 6 2',
      '1 3 7',
      '1 7 5',
    ];
    const vertices = corners.map(([x, y, h]) => `<vertex x="${x}" y="${y}" z="${h}"/>`).join('');
    const triangles = faces.map((f) => f.split(' ')).map(([a, b, c]) => `<triangle v1="${a}" v2="${b}" v3="${c}"/>`);
    return `<mesh><vertices>${vertices}</vertices><triangles>${triangles.join('')}</triangles></mesh>`;
  };
  const model = `<?xml version="1.0"?><model unit="millimeter"><resources><object id="1" type="model">${box(30, 0)}</object><object id="2" type="model">${box(36, 4)}</object></resources><build><item objectid="1"/><item objectid="2"/></build></model>`;
  const file = zipSync({ '[Content_Types].xml': strToU8('<Types/>'), '3D/3dmodel.model': strToU8(model) });
  await page
    .getByTestId('part-file')
    .setInputFiles({ name: 'two.3mf', mimeType: 'model/3mf', buffer: Buffer.from(file) });
  const roles = page.getByTestId('body-role');
  await expect(roles).toHaveCount(2);
  await idle(page);
  await choose(page, roles.nth(1), 'the blank');
  await expect(page.locator('.sentence').first()).toContainText('out of 72.0 x 72.0 x 24.0');
  await expect(roles.nth(0)).toContainText('the part');
  await expect(roles.nth(1)).toContainText('the blank');
  await expect(page.getByRole('combobox', { name: 'Blank', exact: true })).toContainText('a body');
  await expect(page.getByTestId('weight')).toContainText(((72 * 72 * 24 * 7.8) / 1e6).toFixed(2));
  // a file without a body is told, and the work stays
  await page.getByTestId('part-file').setInputFiles({
    name: 'flat.obj',
    mimeType: 'model/obj',
    buffer: Buffer.from('v 0 0 0\nv 9 0 0\nv 0 9 0\nf 1 2 3\n'),
  });
  await expect(page.getByRole('alert')).toContainText('no thickness in Z');
  await expect(page.getByText('two.3mf')).toBeVisible();
});

test('another file: units are doubted, a revision tells what moved, a fixture beside it is taken in and saved with the job', async ({
  page,
}) => {
  await openDemo(page, '/piece');
  const bytes = readFileSync(part);
  await page.getByTestId('part-file').setInputFiles({ name: 'grip.stl', mimeType: 'model/stl', buffer: bytes });
  await expect(page.getByText('grip.stl')).toBeVisible();
  await idle(page);
  // the same shape 3 mm lower in its floor: a new revision
  const lower = Buffer.from(bytes);
  const count = lower.readUInt32LE(80);
  for (let t = 0; t < count; t++)
    for (let c = 0; c < 3; c++) {
      const o = 84 + 50 * t + 12 + 12 * c + 8;
      if (Math.abs(lower.readFloatLE(o) + 40) < 1e-4) lower.writeFloatLE(-43, o);
    }
  await page.getByTestId('part-file').setInputFiles({ name: 'grip.stl', mimeType: 'model/stl', buffer: lower });
  await expect(page.getByTestId('revision')).toContainText('New revision');
  await expect(page.getByTestId('revision')).toContainText('to be calculated again');
  await page
    .getByTestId('other-file')
    .setInputFiles({ name: 'rest.stl', mimeType: 'model/stl', buffer: readFileSync('demo/parts/citrus-core.stl') });
  await page.getByRole('button', { name: 'Take these in' }).click();
  await expect(page.getByRole('button', { name: 'Leave out rest.stl' })).toBeVisible();
  await idle(page);
  await page.getByRole('button', { name: 'Jobs' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    // by key: once a press of the mouse gave no click while the menu unfolded
    page.getByRole('menuitem', { name: 'Save the whole job' }).press('Enter'),
  ]);
  expect(readFileSync(await download.path()).includes('rest.stl')).toBe(true);
  // a file that cannot be read leaves everything as it was
  await page
    .getByTestId('part-file')
    .setInputFiles({ name: 'grip.stl', mimeType: 'model/stl', buffer: bytes.subarray(0, 5000) });
  await expect(page.getByRole('alert')).toContainText(/cut off|ends/);
  await expect(page.getByText('New revision')).toBeVisible();
  // nor does a reading that is stopped
  const sentence = page.locator('.sentence').first();
  const before = await sentence.innerText();
  await page.getByTestId('part-file').setInputFiles('demo/parts/citrus-core.step');
  await page.getByRole('button', { name: 'stop' }).click();
  await idle(page);
  await expect(sentence).toHaveText(before);
  await expect(page.getByText('grip.stl').first()).toBeVisible();
});

test(
  'the steel that a step leaves is saved and taken as the blank of the work that follows',
  { tag: '@slow' },
  async ({ page }) => {
    await openDemo(page);
    await openJob(page, 'Trowel grip, die half');
    await page.getByTestId('step-1').click();
    await page.getByTestId('calculate').click();
    await idle(page);
    await page.keyboard.press('2');
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('save-steel').click()]);
    const steel = readFileSync(await download.path());
    await page.getByRole('link', { name: /Piece/ }).click();
    await page.getByTestId('other-file').setInputFiles({ name: 'roughed.stl', mimeType: 'model/stl', buffer: steel });
    await choose(page, 'What is roughed.stl', 'the blank');
    await page.getByRole('button', { name: 'Take these in' }).click();
    await expect(page.getByRole('button', { name: 'Leave out roughed.stl' })).toBeVisible();
    await idle(page);
    await choose(page, 'Blank', 'a body: cast, pre-milled, hardened');
    await expect(page.getByLabel('Allowance all round')).toBeVisible();
    await expect(page.getByRole('alert')).toHaveCount(0);
    // the roughed steel stands in the view before anything is cut
    await page.getByRole('link', { name: /Workplan/ }).click();
    await page.getByRole('radio', { name: /Leftover/ }).click();
    await expect.poll(() => figure(page, 'median')).toBeLessThan(2);
  },
);

test('a part is made larger for shrinkage and mirrored, its steps wait to be calculated, and undo brings it back', async ({
  page,
}) => {
  const errors = watchErrors(page);
  await openDemo(page);
  await openJob(page, 'Corner check, square pocket');
  await page.getByRole('link', { name: /Piece/ }).click();
  const sentence = page.locator('.sentence');
  await expect(sentence).toContainText(' mm, out of ');
  const before = await sentence.textContent();
  const size = /([\d.]+) x ([\d.]+) x ([\d.]+) mm/.exec(before!)!.slice(1).map(Number);
  await page.getByRole('button', { name: /Shrinkage and mirror/ }).click();
  const shrinkage = page.getByLabel('Shrinkage, all axes');
  await shrinkage.fill('10');
  await shrinkage.press('Enter');
  await expect(sentence).toContainText(size.map((s) => (1.1 * s).toFixed(1)).join(' x '));
  const mirror = page.getByRole('group', { name: 'Mirrored across' }).getByRole('button', { name: 'Y' });
  await mirror.click();
  await expect(mirror).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByLabel('Factor along Y of the file')).toHaveValue('1.1');
  await shrinkage.fill('-100');
  await shrinkage.press('Enter');
  await expect(shrinkage).toHaveAttribute('aria-invalid', 'true');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(mirror).toHaveAttribute('aria-pressed', 'false');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(sentence).toHaveText(before!);
  expect(errors).toEqual([]);
});
