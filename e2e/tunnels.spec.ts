import { spawn } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { readFileSync } from 'node:fs';
import { expect, linkState as state, signIn, test } from './session';

const passphrase = (): string => {
  const file = join(dirname(process.env['HINGE_TEST_HANDOVER'] ?? ''), 'secrets.json');
  return (JSON.parse(readFileSync(file, 'utf8')) as { passphrase: string }).passphrase;
};

test('a link is led through a tunnel that is set up with tickets, and is proved by a check', async ({ page }, info) => {
  test.setTimeout(120_000);
  const running: ReturnType<typeof spawn>[] = [];
  await signIn(page, '/passage/tunnels', 'administrator');
  await page.getByRole('button', { name: 'Add a tunnel' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Water tunnel');
  for (const [label, machine] of [
    ['Listens', 'Cooling water'],
    ['Dials', 'Quality board'],
  ] as const) {
    await page.getByRole('combobox', { name: label }).click();
    await page.getByRole('option', { name: machine, exact: true }).click();
  }
  await page.getByLabel('Port at which they meet').fill('48510');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Water tunnel is not set up yet');

  await page
    .getByRole('row', { name: /Quality board to Cooling water/ })
    .getByRole('button', { name: 'Use the tunnel' })
    .click();
  await page.getByLabel('Port', { exact: true }).fill('48511');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('button', { name: 'Connect directly' })).toBeVisible();

  try {
    for (const machine of ['Cooling water', 'Quality board']) {
      const end = page.locator('hinge-tunnel-end').filter({ has: page.getByRole('heading', { name: machine }) });
      await end.getByRole('button', { name: 'Create a ticket …' }).click();
      await page.getByRole('button', { name: 'Create', exact: true }).click();
      const ticket = (await page.getByText(/^hinge-ticket:/).textContent()) ?? '';
      await page.getByRole('button', { name: 'Close', exact: true }).click();
      const folder = info.outputPath(machine.replaceAll(' ', '-'));
      mkdirSync(folder, { recursive: true });
      const file = join(folder, 'ticket');
      writeFileSync(file, ticket.trim());
      running.push(spawn(process.execPath, [join(process.cwd(), 'tunnel/bin/tunnel.mjs'), folder, '--ticket', file]));
      await end.getByRole('button', { name: 'Sign …' }).click();
      await page.getByLabel(/^Passphrase of/).fill(passphrase());
      await page.getByRole('button', { name: 'Sign', exact: true }).click();
    }
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('Water tunnel is up; 1 link goes through it.', {
      timeout: 30_000,
    });
    await page.getByRole('link', { name: 'Quality board to Cooling water' }).first().click();
    await expect(page.getByText('through Water tunnel')).toBeVisible();
    await page.getByRole('button', { name: 'Check now' }).click();
    await state(page, 'Strained');

    await page.goto('/passage/tunnels/water-tunnel');
    await page.getByRole('button', { name: 'Propose a work order' }).click();
    await expect(page.getByText(/Let through at Office firewall: Water tunnel/)).toBeVisible();
  } finally {
    for (const child of running) child.kill('SIGKILL');
  }
  await page.goto('/passage/tunnels/water-tunnel');
  await page.getByRole('button', { name: 'Remove …' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('There is no tunnel yet.');
});
