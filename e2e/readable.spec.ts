import { seriousIn } from './serious-in';
import { expect, goWithin, signIn, test } from './session';

const places = {
  'links and plant': [
    '/links',
    '/links/history--inspection',
    '/plant',
    '/links/energy--field-data',
    '/links/energy--field-data/register?path=Water%2FFlow',
    '/plant/discovery',
    '/plant/devices',
    '/plant/devices/burner-panel',
    '/bench',
    '/orders',
  ],
  'entry and passage': [
    '/entry?unneeded=all',
    '/entry/identities?open=furnace-server%2Fdisplay',
    '/entry/identities/furnace-server',
    '/entry/user-certificates?open=control-room',
    '/entry/rights?server=furnace-server',
    '/entry/rights/writers',
    '/entry/floor',
    '/passage',
    '/passage/firewalls',
    '/passage/firewalls/process-firewall',
    '/passage/tunnels',
    '/passage/gateways',
    '/passage/probes',
  ],
  'the casebook and settings': [
    '/casebook',
    '/casebook/evidence',
    '/casebook/timeline',
    '/casebook/rounds',
    '/settings',
    '/people',
    '/trail',
    '/account',
  ],
  trust: [
    '/trust',
    '/trust/set-aside',
    '/trust/horizon',
    '/trust/plan',
    '/trust/authority',
    '/trust/tickets',
    '/trust/files',
    '/trust/lists/furnace-server',
  ],
};

for (const [name, paths] of Object.entries(places))
  test(`axe finds nothing serious in ${name}, by day and by night`, async ({ page }) => {
    test.setTimeout(600_000);
    await page.addInitScript(() => localStorage.setItem('hinge-theme', 'day'));
    await signIn(page, '/links', 'administrator');
    for (const path of paths) {
      if (!page.url().endsWith(path)) await goWithin(page, path);
      await page.waitForTimeout(600);
      expect(await seriousIn(page)).toEqual([]);
      await page.getByRole('button', { name: 'Night', exact: true }).click();
      await expect(page.locator('html.night')).toBeVisible();
      // The themes differ in their colours alone.
      expect(await seriousIn(page, 'color-contrast')).toEqual([]);
      await page.getByRole('button', { name: 'Day', exact: true }).click();
    }
  });

/** What opens above a page, by what opens it. */
const opened = [
  ['/plant', 'Add a machine', 'dialog'],
  ['/plant', 'Remove', 'alertdialog'],
  ['/links', 'Keys', 'dialog'],
  ['/links', 'Find', 'dialog'],
  ['/people', 'Add a person', 'dialog'],
] as const;

test('axe finds nothing serious in what opens above a page', async ({ page }) => {
  await signIn(page, '/links', 'administrator');
  for (const [path, opens, role] of opened) {
    if (!page.url().endsWith(path)) await goWithin(page, path);
    await page.getByRole('button', { name: opens }).first().click();
    await expect(page.getByRole(role)).toBeVisible();
    await page.waitForTimeout(400);
    expect(await seriousIn(page)).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(page.getByRole(role)).toBeHidden();
  }
});

test('axe finds nothing serious in a bench with all that opens in it, by day and by night', async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('hinge-theme', 'day'));
  await signIn(page, '/bench/line-display--lehr', 'administrator');
  await page.getByRole('button', { name: /^Lehr/ }).click({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Roller speed wanted' }).click();
  for (const opens of ['Watch', 'Attributes and references', 'Write …', 'Trend', 'Record …'])
    await page.getByRole('button', { name: opens, exact: true }).click();
  for (const part of ['node-details', 'write-value', 'trend', 'record-form', 'watch-list'])
    await expect(page.locator(`hinge-${part}`)).toBeVisible();
  expect(await seriousIn(page)).toEqual([]);
  await page.getByRole('button', { name: 'Night', exact: true }).click();
  await expect(page.locator('html.night')).toBeVisible();
  expect(await seriousIn(page, 'color-contrast')).toEqual([]);
});
