import { writeFileSync } from 'node:fs';
import { expect, linkState as state, signIn, test } from './session';

/** Rules that let everything through: other tests check links over this firewall, too. */
const open =
  'table inet process {\n chain forward {\n  type filter hook forward priority filter; policy accept;\n }\n}\n';

test('a missing opening is found, becomes a work order, and is proved by rules that are taken afterwards', async ({
  page,
}, info) => {
  await signIn(page, '/links/line-display--silo-levels', 'administrator');
  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Parted');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Process firewall drops it');

  await page.goto('/passage?link=line-display--silo-levels');
  await expect(page.getByText('stops here')).toBeVisible();
  await page.getByRole('button', { name: 'Propose a work order' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('1 change proposed');
  await page.getByRole('button', { name: 'Approve' }).click();
  await page.getByRole('button', { name: 'Carry out …' }).click();
  await page.getByRole('button', { name: 'Carry out now' }).click();
  await page.getByRole('button', { name: 'Mark as done' }).click();
  const order = page.url();

  await page.getByRole('link', { name: 'Passage', exact: true }).click();
  await page.getByRole('link', { name: 'Process firewall' }).first().click();
  await page.getByRole('button', { name: 'Look at rule 4 of forward' }).click();
  await page.getByRole('button', { name: 'Try without it' }).click();
  await expect(page.getByRole('status').getByText('Energy board to Recipe')).toBeVisible();
  const file = info.outputPath('open.nft');
  writeFileSync(file, open);
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(page.getByText('open.nft')).toBeVisible();

  await page.goto(order);
  await expect(page.getByText('proved', { exact: true }).first()).toBeVisible();
});
