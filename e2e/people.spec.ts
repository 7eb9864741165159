import { choose, expect, signIn, test } from './session';

const first = 'a first password';
const own = 'a password of one’s own';

test('a person is added, changes the first password, and is disabled and signed out', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, '/people', 'administrator');
  await page.getByRole('button', { name: 'Add a person' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByLabel('Name')).toBeFocused();
  await page.keyboard.type('Early shift');
  await choose(page, 'Role', 'engineer');
  await dialog.getByLabel('First password').fill(first);
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(page.locator('hinge-notices')).toContainText('Early shift can sign in');

  const elsewhere = await (await browser.newContext({ baseURL: baseURL ?? '' })).newPage();
  await elsewhere.goto('/trust');
  await elsewhere.getByLabel('Name').fill('Early shift');
  await elsewhere.getByLabel('Password').fill(first);
  await elsewhere.getByRole('button', { name: 'Sign in' }).click();
  await expect(elsewhere).toHaveURL(/account/);
  await elsewhere.getByLabel('Present password').fill(first);
  await elsewhere.getByLabel(/^New password(?! again)/).fill(own);
  await elsewhere.getByLabel('New password again').fill(own);
  await elsewhere.getByRole('button', { name: 'Change password' }).click();
  await expect(elsewhere.locator('hinge-notices')).toContainText('Your password is changed');
  await elsewhere.getByRole('link', { name: 'Links', exact: true }).click();
  await expect(elsewhere.locator('tr[data-link]').first()).toBeVisible();

  await page.reload();
  const row = page.getByRole('row', { name: /Early shift/ });
  await row.getByRole('button', { name: 'Change', exact: true }).click();
  await dialog.getByRole('switch').check();
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(row).toContainText('disabled');
  // The page elsewhere is sent away by itself: its stream has ended.
  await expect(elsewhere).toHaveURL(/sign-in/);
  await elsewhere.context().close();
});
