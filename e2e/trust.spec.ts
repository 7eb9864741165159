import { copyFileSync, existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { choose, expect, linkState, signIn, standIns, test } from './session';

async function checkAllLinks(page: Page): Promise<void> {
  await page.goto('/links');
  await page.getByRole('button', { name: 'Check all' }).click();
  await expect(page.getByText(/checks under way/)).toBeVisible();
  await expect(page.getByText(/checks under way/)).toBeHidden({ timeout: 180_000 });
}

async function readAllLists(page: Page): Promise<void> {
  await page.goto('/trust');
  await page.getByRole('button', { name: 'Read all lists' }).click();
  await expect(page.getByText(/^The lists of \d+ servers are being read/)).toBeVisible();
  await expect(page.getByText(/lists being read/)).toBeHidden({ timeout: 180_000 });
}

/** Approves the order whose page is shown, and carries it out. */
async function carryOut(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Approve' }).click();
  await page.getByRole('button', { name: 'Carry out …' }).click();
  await expect(page.getByRole('heading', { name: 'This changes running machines' })).toBeVisible();
  await page.getByRole('button', { name: 'Carry out now' }).click();
}

test.describe.configure({ mode: 'serial' });

test('all lists are read, and a cell of the grid says why a link is refused and what would turn', async ({ page }) => {
  await signIn(page, '/trust', 'administrator');
  await checkAllLinks(page);
  await readAllLists(page);
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/\d+ links stop at trust/);
  await choose(page, 'Which trust', 'what is needed and refused');
  await page.getByRole('gridcell', { name: /^Cooling water server, Quality board/ }).click();
  const drawer = page.locator('.p-drawer');
  await expect(drawer).toContainText('is only in the issuers list');
  await expect(drawer).toContainText('Quality board to Cooling water would change from refused to trusted');
  await expect(page).toHaveURL(/only=refused/);
});

test('the grid is walked by keyboard', async ({ page }) => {
  await signIn(page, '/trust?only=needed', 'administrator');
  const first = page.getByRole('gridcell').first();
  await first.focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await expect(first).not.toBeFocused();
  const label = await page.locator('td:focus').getAttribute('aria-label');
  await page.keyboard.press('Enter');
  await expect(page.locator('.p-drawer')).toContainText((label ?? '').split(',')[0] ?? '');
});

test('what is set aside is put off, and taken up again', async ({ page }) => {
  await signIn(page, '/trust/set-aside', 'administrator');
  const entry = page.locator('article').filter({ hasText: 'Glass laboratory server set aside' });
  await entry.getByRole('button', { name: 'Trust …' }).click();
  await expect(entry).toContainText('This alone opens no link');
  await entry.getByRole('button', { name: 'Cancel' }).click();
  await entry.getByRole('button', { name: 'Postpone' }).click();
  await expect(entry).toBeHidden();
  await page.getByLabel('include postponed ones').check();
  await expect(entry).toContainText('Postponed by administrator');
  await entry.getByRole('button', { name: 'Review again' }).click();
  await expect(entry.getByRole('button', { name: 'Postpone' })).toBeVisible();
});

test('a certificate has a page with its chain, where it is listed and what depends on it', async ({ page }) => {
  await signIn(page, '/trust', 'administrator');
  await page.locator('thead').getByRole('link', { name: 'Shift tablet' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Shift tablet: revoked; no link depends on it.');
  await expect(page.locator('.chain')).toContainText('Marrowby Glass Works Authority');
  await expect(page.locator('.lies').first()).toContainText('Tin bath server: trusted list');
});

test('the horizon tells what ends next and what falls with it', async ({ page }) => {
  await signIn(page, '/trust/horizon', 'administrator');
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/next ends Gas meter server: 1[12] days left/);
  await page.getByLabel('Words to look for').fill('authority');
  await expect(page.locator('tbody tr').first()).toContainText('Marrowby Glass Works Authority');
});

test('the plan brings every link that trust alone can mend to Sound', async ({ page }) => {
  await signIn(page, '/trust/plan', 'administrator');
  const direct = page.locator('section').filter({ hasText: 'Direct trust' });
  await expect(direct).toContainText('changes now');
  await direct.getByRole('button', { name: 'Create a work order' }).click();
  await expect(page).toHaveURL(/\/orders\//);
  await carryOut(page);
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Carried out and proved', { timeout: 180_000 });
  for (const linkId of ['quality--glass-lab', 'quality--cooling-water', 'quality--cullet-sorter']) {
    await page.goto(`/links/${linkId}`);
    await linkState(page, 'Sound');
  }
  await page.goto('/links/line-display--furnace');
  await linkState(page, 'Sound');
});

test('a machine that no wire reaches is served by a bundle', async ({ page }) => {
  await signIn(page, '/trust/lists/crane-server', 'administrator');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('have not been read yet');
  await page
    .locator('hinge-file-button', { hasText: 'Import a PKI folder' })
    .locator('input[type=file]')
    .setInputFiles(join(standIns, 'copied-from-machines', 'crane-server.zip'));
  await expect(page.locator('hinge-notices')).toContainText('Imported: ');
  await page.goto('/trust/plan');
  const direct = page.locator('section').filter({ hasText: 'Direct trust' });
  await expect(page.locator('tbody')).toContainText('Let Crane server trust Quality board');
  await direct.getByRole('button', { name: 'Create a work order' }).click();
  await expect(page).toHaveURL(/\/orders\//);
  const order = page.url();
  await carryOut(page);
  await expect(page.locator('tbody')).toContainText('for a person', { timeout: 30_000 });
  await page.getByRole('link', { name: 'Export the bundle' }).first().click();
  const downloading = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export as a bundle' }).click();
  const bundle = await (await downloading).path();
  // Somebody walks to the machine with it.
  copyFileSync(bundle, join(standIns, 'by-hand', 'crane-server', 'brought.zip'));
  await expect
    .poll(() => existsSync(join(standIns, 'by-hand', 'crane-server', 'brought.zip.taken')), { timeout: 60_000 })
    .toBe(true);
  await page.goto(order);
  const waiting = page.getByRole('button', { name: 'Mark as done' });
  await waiting.first().click();
  await expect(waiting).toHaveCount(0);
  await expect(page.getByText('marked it as done').first()).toBeVisible();
  await page.goto('/links/quality--crane');
  await linkState(page, 'Sound');
});

test('files that are dropped are recognised by what is in them', async ({ page }) => {
  await signIn(page, '/links', 'administrator');
  const files = [
    join(standIns, 'authority', 'certificate.pem'),
    join(standIns, 'crls', 'current.crl'),
    join(standIns, 'copied-from-machines', 'crane-server.zip'),
    join(standIns, 'authority', 'private-key.pem'),
    join(process.cwd(), 'package.json'),
  ].map((path) => ({ name: path.split('/').at(-1) ?? '', base64: readFileSync(path).toString('base64') }));
  await page.evaluate((given) => {
    const carried = new DataTransfer();
    for (const { name, base64 } of given)
      carried.items.add(new File([Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))], name));
    window.dispatchEvent(new DragEvent('drop', { dataTransfer: carried, bubbles: true, cancelable: true }));
  }, files);
  await expect(page).toHaveURL(/trust\/files/);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('5 files recognised by what is in them.');
  const articles = page.locator('article');
  await expect(articles.nth(0)).toContainText('1 certificate: Marrowby Glass Works Authority.');
  await expect(articles.nth(1)).toContainText('A CRL of Marrowby Glass Works Authority, 1 certificate revoked');
  await expect(articles.nth(2)).toContainText('A PKI folder of Crane server');
  await expect(articles.nth(3)).toContainText('It was not stored');
  await expect(articles.nth(4)).toContainText('neither DER nor PEM nor a zip');
  await expect(page.getByRole('combobox', { name: 'Do it at' })).toHaveText('Crane server');
});
