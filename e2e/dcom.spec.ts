import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, linkState as state, signIn, standIns, test } from './session';

/** What is put in force on the made-up machine: its own administrative door, since nothing is installed there. */
const door = join(standIns, 'classic', 'tin-data', 'x-put-in-force.reg');
test.afterAll(() => rmSync(door, { force: true }));

test('a classic link is mended by the smallest settings of its machine', async ({ page }) => {
  await signIn(page, '/links/trend--tin-data');
  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Parted');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('refuses the call of “trend”');

  await page.goto('/dcom');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('rights are missing');
  await page.getByRole('link', { name: 'Tin bath data', exact: true }).click();
  await page.getByRole('button', { name: /trend, access far: missing/ }).click();
  await expect(page.getByText('No entry of the machine’s default permission gives it.')).toBeVisible();
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save the file that changes it' }).click();
  const file = await saved;
  expect(file.suggestedFilename()).toBe('tin-data-change.reg');
  const bytes = readFileSync(await file.path());
  expect([...bytes.subarray(0, 2)]).toEqual([0xff, 0xfe]);
  writeFileSync(door, bytes);
  // What the machine says now is brought, as the page asks for.
  await page.locator('input[type=file]').setInputFiles([join(standIns, 'classic', 'tin-data', 'settings.reg'), door]);
  await expect(page.getByRole('button', { name: 'Compare with the export before' })).toBeVisible();

  await page.goto('/links/trend--tin-data');
  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Sound');
});

test('exports that somebody brings are kept, and a pasted descriptor is read', async ({ page }) => {
  await signIn(page, '/dcom/batch-data');
  await expect(page.getByText('reg export "HKLM\\SOFTWARE\\Microsoft\\Ole" 1.reg /y')).toBeVisible();
  await page.locator('input[type=file]').setInputFiles(join(standIns, 'classic', 'batch-data', 'settings.reg'));
  await expect(page.getByRole('heading', { name: 'Batch data server' })).toBeVisible();
  await expect(page.getByText('In which groups trend is, nobody knows yet')).toBeVisible();
  await page.goto('/dcom/descriptor');
  await page.getByLabel('Descriptor').fill('D:(A;;CCDCLCSWRP;;;WD)');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('It lets everybody in from other machines.');
});
