import { spawn } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, linkState as state, passphrase, signIn, test } from './session';

test('a link is led through a tunnel that is set up with tickets, and is proved by a check', async ({ page }, info) => {
  test.setTimeout(120_000);
  const running: ReturnType<typeof spawn>[] = [];
  await signIn(page, '/passage/tunnels', 'administrator');
  await page.getByRole('button', { name: 'Add a tunnel' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Yard tunnel');
  for (const [label, machine] of [
    ['Listens', 'Furnace control'],
    ['Dials', 'Energy board'],
  ] as const) {
    await page.getByRole('combobox', { name: label }).click();
    await page.getByRole('option', { name: machine, exact: true }).click();
  }
  await page.getByLabel('Port at which they meet').fill('4850');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Yard tunnel is not set up yet');

  await page
    .getByRole('row', { name: /Energy board to Furnace/ })
    .getByRole('button', { name: 'Use the tunnel' })
    .click();
  await page.getByLabel('Port', { exact: true }).fill('48511');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Connect directly' })).toBeVisible();

  try {
    for (const machine of ['Furnace control', 'Energy board']) {
      const end = page.locator('hinge-tunnel-end').filter({ has: page.getByRole('heading', { name: machine }) });
      await end.getByRole('button', { name: 'Create a ticket …' }).click();
      await page.getByRole('button', { name: 'Create', exact: true }).click();
      const ticket = (await page.locator('hinge-outpost-sheet hinge-copy').first().textContent()) ?? '';
      await page.locator('hinge-outpost-sheet').getByRole('button', { name: 'Close' }).click();
      const folder = info.outputPath(machine.replaceAll(' ', '-'));
      mkdirSync(folder, { recursive: true });
      const file = join(folder, 'ticket');
      writeFileSync(file, ticket.trim());
      running.push(spawn(process.execPath, [join(process.cwd(), 'tunnel/bin/tunnel.mjs'), folder, '--ticket', file]));
      await end.getByRole('button', { name: 'Sign …' }).click();
      await page.getByLabel(/^Passphrase of/).fill(passphrase());
      await page.getByRole('button', { name: 'Sign', exact: true }).click();
    }
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('Yard tunnel is up; 1 link goes through it.', {
      timeout: 30_000,
    });
    await page.getByRole('link', { name: 'Energy board to Furnace' }).first().click();
    await expect(page.getByRole('link', { name: 'Yard tunnel' })).toBeVisible();
    await page.getByRole('button', { name: 'Check now' }).click();
    await state(page, 'Sound');

    await page.goto('/passage/tunnels/yard-tunnel');
    await page.getByRole('button', { name: 'Propose a work order' }).click();
    await expect(page.getByText('Let Energy board dial the entrance of Yard tunnel')).toBeVisible();
  } finally {
    for (const child of running) child.kill('SIGKILL');
  }
  await page.goto('/passage/tunnels/yard-tunnel');
  await page.getByRole('button', { name: 'Remove …' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('There is no tunnel yet.');
});
