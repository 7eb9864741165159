import { choose, expect, linkState as state, signIn, test } from './session';

test('a value that makes no sense is followed to its register, and proved by the next check', async ({ page }) => {
  await signIn(page, '/links/energy--field-data');
  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Parted');
  const behind = page.locator('hinge-link-origins');
  const speed = behind.getByRole('row', { name: /Lehr drive\/Speed/ });
  const flow = behind.getByRole('row', { name: /Water\/Flow/ });
  await expect(speed).toContainText('The two differ.');
  await expect(flow).toContainText('The two differ.');
  await expect(page.getByText('comes out where it reads register 40012').first()).toBeVisible();
  await expect(page.getByText('reads the words in the other order').first()).toBeVisible();

  // The papers were misread: the server was right all along.
  await speed.getByRole('button', { name: 'Change …' }).click();
  await page.getByLabel('Address', { exact: true }).fill('30012');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('begins with 4')).toBeVisible();
  await page.getByLabel('Address', { exact: true }).fill('40012');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(speed).toContainText('40012');
  await flow.getByRole('button', { name: 'Change …' }).click();
  await choose(page, 'Order', 'low word first');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(flow).toContainText('low word first');

  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Sound');
  await expect(behind).not.toContainText('The two differ.');
});

test('devices that do not answer are named, each with its reason', async ({ page }) => {
  await signIn(page, '/links/line-display--field-data');
  await page.getByRole('button', { name: 'Check now' }).click();
  await state(page, 'Parted');
  for (const says of [
    'unit 1 does not answer',
    'takes the connection and ends it at once',
    'does not answer on port 5020',
  ])
    await expect(page.getByText(says).first()).toBeVisible();
});
