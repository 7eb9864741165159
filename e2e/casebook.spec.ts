import { writeFileSync } from 'node:fs';
import type { Plant } from '@loyal-hinge/core';
import { expect, signIn, test } from './session';

test('a log of the night becomes a case, which says why and leads to its link', async ({ page }, info) => {
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
  await page.locator('input[type=file]').setInputFiles(file);
  const row = page.getByRole('row').filter({ hasText: 'night.log' });
  await expect(row).toContainText('2 events');

  await page.getByRole('link', { name: 'Cases', exact: true }).click();
  const one = page.getByRole('row').filter({ hasText: link?.name ?? '' });
  await expect(one).toContainText('2 times');
  await one.getByRole('link').first().click();
  await expect(page.getByText(`on port ${port}: the machine was off`).first()).toBeVisible();
  await expect(page.getByText('door-1 dropped it by the rule “OPC-DROP”.').first()).toBeVisible();
  await expect(page.getByText('night.log').first()).toBeVisible();

  await page.getByRole('link', { name: 'To the link' }).click();
  await expect(page).toHaveURL(/\/links\/line-display--lehr$/);

  await page.goto('/casebook/evidence');
  await page.getByRole('button', { name: 'Remove night.log' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(row).toHaveCount(0);
});
