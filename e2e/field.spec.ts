import { choose, expect, linkState as state, signIn, test } from './session';

test('a value that makes no sense is followed to its register, and proved by the next check', async ({ page }) => {
  const behind = page.locator('hinge-link-origins');
  const speed = behind.getByRole('row', { name: /Lehr drive\/Speed/ });
  const flow = behind.getByRole('row', { name: /Water\/Flow/ });
  const checked = async (word: string): Promise<void> => {
    await page.getByRole('button', { name: 'Check now' }).click();
    await state(page, word);
  };
  const setAddress = async (address: string): Promise<void> => {
    await speed.getByRole('button', { name: 'Change …' }).click();
    await page.getByLabel('Address', { exact: true }).fill(address);
    await page.getByRole('button', { name: 'Save', exact: true }).click();
  };
  const setOrder = async (words: string): Promise<void> => {
    await flow.getByRole('button', { name: 'Change …' }).click();
    await choose(page, 'Order', words);
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(flow).toContainText(words);
  };
  await signIn(page, '/links/energy--field-data');
  await checked('Parted');
  await expect(speed).toContainText('The two differ.');
  await expect(flow).toContainText('The two differ.');
  await expect(page.getByText('comes out where it reads register 40012').first()).toBeVisible();
  await expect(page.getByText('reads the words in the other order').first()).toBeVisible();

  // The papers were misread: the server was right all along.
  await setAddress('30012');
  await expect(page.getByText('begins with 4')).toBeVisible();
  await page.getByLabel('Address', { exact: true }).fill('40012');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(speed).toContainText('40012');
  await setOrder('low word first');
  await checked('Sound');
  await expect(behind).not.toContainText('The two differ.');

  // As it was: other tests look at this plant, too.
  await setAddress('40011');
  await expect(speed).toContainText('40011');
  await setOrder('high word first');
  await checked('Parted');
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
