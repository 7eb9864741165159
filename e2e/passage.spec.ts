import { readFileSync, writeFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expect, linkState as state, signIn, test } from './session';

/** Rules that let everything through: other tests check links over this firewall, too. */
const open =
  'table inet process {\n chain forward {\n  type filter hook forward priority filter; policy accept;\n }\n}\n';

/** Proposes what is shown, approves it, carries it out, and says that it was done at the firewall. @returns where the order is */
async function proposedAndDone(page: Page): Promise<string> {
  await page.getByRole('button', { name: 'Propose a work order' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('1 change proposed');
  await page.getByRole('button', { name: 'Approve' }).click();
  await page.getByRole('button', { name: 'Carry out …' }).click();
  await page.getByRole('button', { name: 'Carry out now' }).click();
  await page.getByRole('button', { name: 'Mark as done' }).click();
  return page.url();
}

test('a missing opening is found, becomes a work order, and is proved by rules that are taken afterwards', async ({
  page,
}, info) => {
  await signIn(page, '/links/line-display--silo-levels', 'administrator');
  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Parted');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Process firewall drops it');

  await page.goto('/passage?link=line-display--silo-levels');
  await expect(page.getByText('stops here')).toBeVisible();
  const order = await proposedAndDone(page);

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

test('a rule that nobody needs is tried without, goes by a work order, and is proved to be gone', async ({
  page,
}, info) => {
  await signIn(page, '/passage/firewalls', 'administrator');
  await page.getByRole('button', { name: 'Look at Office to DMZ' }).click();
  await expect(page.getByText('What it lets through beside that')).toBeVisible();
  await page.getByRole('link', { name: 'Office firewall' }).first().click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('let through what nobody needs');
  const view = await page.request.get('/api/passage/firewalls/office-firewall');
  const { rules } = (await view.json()) as { rules: readonly { chain: string; table: string; text: string }[] };
  const wide = rules.find(({ text }) => text.includes('since commissioning'));

  await page.getByRole('button', { name: 'Look at rule 4 of FORWARD' }).click();
  await page.getByRole('button', { name: 'Try without it' }).click();
  await expect(page.getByText('Nothing that the plant needs would be judged otherwise.')).toBeVisible();
  await expect(page.getByText('iptables -D FORWARD')).toBeVisible();
  const order = await proposedAndDone(page);

  const kept = rules.filter((rule) => rule.table === 'filter' && rule !== wide).map(({ text }) => text);
  const nat = rules.filter((rule) => rule.table === 'nat').map(({ text }) => text);
  const file = info.outputPath('office.rules');
  writeFileSync(
    file,
    `*nat\n:PREROUTING ACCEPT [0:0]\n${nat.join('\n')}\nCOMMIT\n*filter\n:INPUT DROP [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n:boards - [0:0]\n${kept.join('\n')}\nCOMMIT\n`,
  );
  await page.goto('/passage/firewalls/office-firewall');
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(page.getByText('office.rules')).toBeVisible();
  await expect(page.getByText('since commissioning')).toHaveCount(0);
  await page.goto(order);
  await expect(page.getByText('proved', { exact: true }).first()).toBeVisible();
});

test('firewalls, conduits and services go out as one file, and come in again', async ({ page }) => {
  await signIn(page, '/passage/firewalls', 'engineer');
  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export', exact: true }).click();
  const file = await (await coming).path();
  await page.locator('hinge-file-button input[type=file]').setInputFiles({
    name: 'firewalls.json',
    mimeType: 'application/json',
    buffer: readFileSync(file),
  });
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(page.getByText('Imported: 3 firewalls')).toBeVisible();
});
