import { spawn } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { choose, expect, passphrase, signIn, test } from './session';

test('a gateway is added, begins with a ticket, says what it still lacks, and goes with what it was in the plant', async ({
  page,
}, info) => {
  test.setTimeout(120_000);
  await signIn(page, '/passage/gateways', 'administrator');
  await page.getByRole('button', { name: 'Add a gateway' }).click();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('A name is needed.')).toBeVisible();
  await page.getByLabel('Name', { exact: true }).fill('Yard gateway');
  await choose(page, 'Runs on', 'History node');
  await page.getByLabel('Port', { exact: true }).fill('48620');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Yard gateway is not set up yet');

  await page.getByRole('button', { name: 'Create a ticket …' }).click();
  await page.getByRole('button', { name: 'Create', exact: true }).click();
  const ticket = (await page.locator('hinge-outpost-sheet hinge-copy').first().textContent()) ?? '';
  await page.locator('hinge-outpost-sheet').getByRole('button', { name: 'Close' }).click();
  const folder = info.outputPath('gateway');
  mkdirSync(folder, { recursive: true });
  const file = join(folder, 'ticket');
  writeFileSync(file, ticket.trim());
  const running = spawn(process.execPath, [join(process.cwd(), 'gateway/bin/gateway.mjs'), folder, '--ticket', file]);
  try {
    await page.getByRole('button', { name: 'Sign …' }).click();
    await page.getByLabel(/^Passphrase of/).fill(passphrase());
    await page.getByRole('button', { name: 'Sign', exact: true }).click();
    await expect(page.getByText('is connected to this server')).toBeVisible({ timeout: 30_000 });
    // It is a client and a server of the plant, and those need a certificate of OPC UA.
    await expect(page.getByRole('heading', { level: 1 })).toContainText('certificate');
    await page.getByRole('link', { name: 'its OPC UA certificate' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('Yard gateway');
    await page.goto('/links?find=yard');
    await expect(page.locator('tr[data-link]')).toHaveCount(0);
  } finally {
    running.kill('SIGKILL');
  }

  await page.goto('/passage/gateways/yard-gateway');
  await page.getByRole('button', { name: 'Remove …' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('There is no gateway yet.');
  await page.goto('/plant?part=applications&find=yard');
  await expect(page.getByRole('cell', { name: /Yard gateway/ })).toHaveCount(0);
});
