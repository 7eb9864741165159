import { choose, expect, linkState as state, password, passwordOf, signIn, test } from './session';

test('a wrong password is refused in words, and nothing typed is lost', async ({ page }) => {
  await page.goto('/links/history--lehr');
  await page.getByLabel('Name').fill('engineer');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toContainText('do not match');
  await expect(page.getByLabel('Name')).toHaveValue('engineer');
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(/history--lehr/);
});

test('all links are checked, and the board tells how many are parted', async ({ page }) => {
  await signIn(page);
  await page.getByRole('button', { name: 'Check all' }).click();
  await expect(page.getByText(/checks under way/)).toBeVisible();
  await expect(page.getByText(/checks under way/)).toBeHidden({ timeout: 180_000 });
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(
    /^33 of 48 links are parted; 5 strained, 10 sound\.$/,
  );
  await page.getByLabel('Words to look for').fill('tin bath control');
  await expect(page.locator('tr[data-link]')).toHaveCount(3);
  await expect(page).toHaveURL(/find=tin%20bath%20control/);
});

test('a client set aside by the server is accepted, and the link turns Sound', async ({ page }) => {
  await signIn(page, '/links/maintenance--furnace');
  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Parted');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('put its certificate aside');
  await page.getByRole('button', { name: 'Do this …' }).first().click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Application URI');
  await expect(dialog).toContainText('push management');
  await dialog.getByRole('button', { name: /Carry out/ }).click();
  await state(page, 'Sound');
});

test('the server’s certificate is looked at and trusted, and the link turns Sound', async ({ page }) => {
  await signIn(page, '/links/history--tin-bath');
  await state(page, 'Parted');
  await page.getByRole('button', { name: 'Do this …' }).first().click();
  await expect(page.getByRole('dialog')).toContainText('self-signed');
  await page.getByRole('button', { name: /Carry out/ }).click();
  await state(page, 'Sound');
});

test('a URL, a port and a name are corrected', async ({ page }) => {
  await signIn(page);
  for (const linkId of ['history--furnace', 'energy--batch-scales', 'history--batch-scales']) {
    await page.goto(`/links/${linkId}`);
    await state(page, 'Parted');
    await page.getByRole('button', { name: 'Do this …' }).first().click();
    await page.getByLabel('Password at the new target').fill(passwordOf(linkId));
    await page.getByRole('button', { name: /Carry out/ }).click();
    await state(page, 'Sound');
  }
});

test('a kept password stays behind when its link goes elsewhere, until an approver releases it', async ({ page }) => {
  const elsewhere = page.getByRole('heading', { name: 'The stored password belongs to another target' });
  await signIn(page, '/links/energy--lehr');
  await state(page, 'Strained');
  await page.getByRole('button', { name: 'Do this …' }).first().click();
  await expect(page.getByRole('dialog')).toContainText('until an approver releases it');
  await page.getByRole('button', { name: /Carry out/ }).click();
  await state(page, 'Parted');
  await expect(elsewhere).toBeVisible();
  await expect(page.getByRole('button', { name: 'Do this …' }).first()).toBeDisabled();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await signIn(page, '/links/energy--lehr', 'administrator');
  await page.getByRole('button', { name: 'Do this …' }).first().click();
  await page.getByRole('button', { name: /Carry out/ }).click();
  await state(page, 'Sound');
});

test('a password typed again is used, and a wrong one is told', async ({ page }) => {
  await signIn(page, '/links/maintenance--lehr');
  await page.getByRole('button', { name: 'Do this …' }).first().click();
  await page.getByRole('dialog').getByLabel('Password').fill('still wrong');
  await page.getByRole('button', { name: /Carry out/ }).click();
  await expect(page.locator('hinge-notices').getByText('stored, encrypted')).toBeVisible();
  await state(page, 'Parted');
});

test('an endpoint is chosen by hand, and let go again', async ({ page }) => {
  await signIn(page, '/links/energy--furnace');
  await choose(page, 'Use', 'Basic256Sha256 (Sign)');
  await page.getByRole('button', { name: /Carry out/ }).click();
  await state(page, 'Strained');
  await choose(page, 'Use', 'the best that both sides have');
  await page.getByRole('button', { name: /Carry out/ }).click();
  await state(page, 'Sound');
  await page.getByRole('checkbox').nth(0).check();
  await page.getByRole('checkbox').nth(1).check();
  await expect(page.getByText('What changed between them')).toBeVisible();
  await expect(page.getByText(/Policy: weak before, holds after/)).toBeVisible();
});

test('the drawer explains a step with its evidence', async ({ page }) => {
  await signIn(page, '/links/history--inspection');
  await page.getByRole('button', { name: /Server certificate: fails/ }).click();
  const drawer = page.locator('.p-drawer');
  await expect(drawer).toContainText('How we know');
  await expect(drawer).toContainText('calculated from other facts');
  await expect(page).toHaveURL(/step=server-certificate/);
});

test('live values come through the bench', async ({ page }) => {
  await signIn(page, '/bench/line-display--furnace');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Line display to Furnace', { timeout: 60_000 });
  await page.getByRole('button', { name: /^Furnace/ }).click();
  await page.getByRole('button', { name: /Crown temperature/ }).click();
  await page.getByRole('button', { name: 'Watch', exact: true }).click();
  const value = page.locator('hinge-watch-list .number');
  await expect(value).toHaveText(/\d{4}(\.\d)? °C$/, { timeout: 60_000 });
  const first = await value.textContent();
  await expect(value).not.toHaveText(first ?? '', { timeout: 60_000 });
});

test('a machine is added, changed and removed; a faulty one is refused with its field', async ({ page }) => {
  await signIn(page, '/plant');
  await page.getByRole('button', { name: 'Add a machine' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name', { exact: true }).fill('Spare press');
  await dialog.getByRole('textbox', { name: 'Addresses' }).fill('127.41.30.999');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(dialog.getByRole('alert')).toHaveText(['Choose one.', '“127.41.30.999”: This is no IP address.']);
  await choose(page, 'Zone', 'Hot End');
  await dialog.getByRole('textbox', { name: 'Addresses' }).fill('127.41.30.99');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(page.locator('hinge-notices')).toContainText('Spare press was saved');
  await page.getByLabel('Words to look for').fill('spare');
  await expect(page.locator('tbody tr')).toHaveCount(1);
  await page.getByRole('button', { name: 'Remove' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove' }).click();
  await expect(page.locator('tbody')).toContainText('Nothing matches');
});

test('everything can be reached by keyboard alone', async ({ page }) => {
  await page.goto('/links');
  await expect(page.getByLabel('Name')).toBeFocused();
  await page.keyboard.type('engineer');
  await page.keyboard.press('Tab');
  await page.keyboard.type(password);
  await page.keyboard.press('Enter');
  await expect(page.locator('tr[data-link]').first()).toBeVisible();
  await page.keyboard.press('/');
  await page.keyboard.type('cutter opc.tcp');
  await expect(page.locator('tr[data-link]')).toHaveCount(1);
  await page.keyboard.press('Tab');
  await page.locator('body').press('Escape');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/line-display--cutter/);
  await state(page, 'Parted');
  await page.keyboard.press('x');
  await expect(page.locator('.p-drawer')).toContainText('cutter-cabinet-7');
  await page.keyboard.press('Escape');
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  await expect(page).toHaveURL(/plant/);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('go to Links');
});
