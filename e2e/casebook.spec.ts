import { writeFileSync } from 'node:fs';
import type { Plant } from '@loyal-hinge/core';
import { tcpFlag, writePackets } from '../stand-ins/src/night/packet-file';
import { seriousIn } from './serious-in';
import { choose, expect, signIn, test } from './session';

test('a log of the night becomes a case, which says why, leads to its link, and is proved over by a check', async ({
  page,
}, info) => {
  await signIn(page, '/casebook', 'engineer');
  const plant = (await (await page.request.get('/api/plant')).json()) as Plant;
  const link = plant.links.find(({ id }) => id === 'line-display--lehr');
  const addressOf = (applicationId: string | undefined): string => {
    const application = plant.applications.find(({ id }) => id === applicationId);
    return plant.machines.find(({ id }) => id === application?.machineId)?.addresses[0] ?? '';
  };
  const port = /:(\d+)/.exec(link?.endpointUrl.replace('opc.tcp:', '') ?? '')?.[1] ?? '4840';
  const [from, to] = [addressOf(link?.clientId), addressOf(link?.serverId)];
  const dropped = [0, 30].map(
    (second, index) =>
      `2026-11-20T02:10:${String(second).padStart(2, '0')}Z door-1 kernel: OPC-DROP IN=a OUT=b SRC=${from} DST=${to} PROTO=TCP SPT=${50_100 + index} DPT=${port} SYN\n`,
  );
  const file = info.outputPath('night.log');
  writeFileSync(file, dropped.join(''));

  await page.getByRole('link', { name: 'Captures and logs' }).click();
  await page.locator('input[type=file][multiple]').setInputFiles(file);
  const row = page.getByRole('row').filter({ hasText: 'night.log' });
  await expect(row).toContainText('2 events');

  await page.goto('/casebook?stand=all');
  const one = page.getByRole('row').filter({ hasText: link?.name ?? '' });
  await expect(one).toContainText('2 times');
  await one.getByRole('link').first().click();
  await expect(page.getByText(`on port ${port}: the machine was off`).first()).toBeVisible();
  await expect(page.getByText('door-1 dropped it by the rule “OPC-DROP”.').first()).toBeVisible();
  await expect(page.getByText('night.log').first()).toBeVisible();

  await page.getByRole('link', { name: 'To the link' }).click();
  await expect(page).toHaveURL(/\/links\/line-display--lehr$/);
  await page.getByRole('button', { name: 'Check now' }).click();
  await expect(page.getByRole('button', { name: 'Check now' })).toBeVisible({ timeout: 60_000 });
  await page.goBack();
  await expect(page.getByText('a check saw the link work')).toBeVisible({ timeout: 60_000 });

  await page.getByRole('button', { name: 'Open again' }).click();
  await page.getByLabel('Why it is not over').fill('The display stood still again.');
  await page.getByRole('button', { name: 'Open it again' }).click();
  await expect(page.getByText('engineer opened it again: The display stood still again.')).toBeVisible();
  await expect(page.getByText('and with nobody.')).toBeVisible();
  await page.getByRole('button', { name: 'Report …' }).click();
  const saving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save the report' }).click();
  expect((await saving).suggestedFilename()).toMatch(/\.pdf$/);

  await page.goto('/casebook/evidence');
  await page.getByRole('button', { name: 'Remove night.log' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(row).toHaveCount(0);
});

test('a capture becomes a case, and each of its attempts a conversation that can be read', async ({ page }, info) => {
  await signIn(page, '/casebook/evidence', 'engineer');
  const plant = (await (await page.request.get('/api/plant')).json()) as Plant;
  const addressOf = (machineId: string): string =>
    plant.machines.find(({ id }) => id === machineId)?.addresses[0] ?? '';
  const client = { address: addressOf('energy'), port: 50_200 };
  const server = { address: addressOf('gas-meter'), port: 4840 };
  const at = Date.parse('2026-11-20T04:10:00Z') * 1000;
  const asked = { at, from: client, to: server, sequence: 7, acknowledged: 0, flags: tcpFlag.syn };
  const refusal = tcpFlag.reset | tcpFlag.acknowledge;
  const answered = { at: at + 400, from: server, to: client, sequence: 0, acknowledged: 8, flags: refusal };
  const payload = new Uint8Array();
  const file = info.outputPath('refused.pcap');
  writeFileSync(file, writePackets([asked, answered].map((packet) => ({ ...packet, payload }))));
  await page.locator('input[type=file][multiple]').setInputFiles(file);
  const row = page.getByRole('row').filter({ hasText: 'refused.pcap' });
  await expect(row).toContainText('2 packets');

  await page.goto('/casebook?find=gas meter');
  await page.getByRole('row').filter({ hasText: 'The port is refused' }).getByRole('link').first().click();
  await page.getByRole('link', { name: 'Conversation in refused.pcap' }).click();
  await expect(page.getByRole('button', { name: 'Gas meter refuses it: nothing listens at the port' })).toBeVisible();
  const asks = page.getByRole('button', { name: 'Energy board asks for a connection' });
  await asks.click();
  await expect(asks).toHaveAttribute('aria-expanded', 'true');
  expect(await seriousIn(page)).toEqual([]);
  await choose(page, 'Which messages', 'what was said');
  await expect(page.getByText('There is no such message.')).toBeVisible();

  await page.goto('/casebook/evidence');
  await page.getByRole('button', { name: 'Remove refused.pcap' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(row).toHaveCount(0);
});

test('a round checks links by itself, and the timeline shows how they were', async ({ page }) => {
  await signIn(page, '/casebook/rounds', 'engineer');
  await page.getByRole('button', { name: 'Add a round' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Line display');
  await choose(page, 'Checks', 'links that I choose');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Choose at least one link.')).toBeVisible();
  await page.getByText('at least one', { exact: true }).click();
  await page.getByRole('option', { name: 'Line display to Lehr', exact: true }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  const row = page.getByRole('row').filter({ hasText: 'Line display' });
  await expect(row).toContainText('1 link');
  await page.getByRole('button', { name: 'Begin Line display now' }).click();
  await expect(row).toContainText('1 link asked for by engineer', { timeout: 60_000 });

  await page.goto('/casebook/timeline?days=1&find=line%20display%20to%20lehr');
  const link = page.getByRole('row').filter({ hasText: 'Line display to Lehr' }).first();
  await expect(link).toContainText('%', { timeout: 60_000 });
  await expect(page.getByRole('heading', { level: 1 })).toContainText('could be used');

  await page.goto('/casebook/rounds');
  await page.getByRole('button', { name: 'Remove Line display' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(row).toHaveCount(0);
});
