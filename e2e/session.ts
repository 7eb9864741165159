import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { test as base, expect } from '@playwright/test';
import type { Page } from '@playwright/test';

/** The made-up plant that these tests have for themselves, with a server of its own. */
const plant = JSON.parse(process.env['HINGE_TEST_PLANT'] ?? '{}') as Readonly<Record<string, string>>;

export const password = plant['HINGE_TEST_PASSWORD'] ?? '';
/** The folder of the made-up plant itself. */
export const standIns = join(plant['HINGE_TEST_DATA'] ?? '', 'stand-ins');

/** With which the plant’s authority signs. */
export const passphrase = (): string =>
  (JSON.parse(readFileSync(join(standIns, 'secrets.json'), 'utf8')) as { passphrase: string }).passphrase;

/** The password of the user as whom a link signs in. */
export function passwordOf(linkId: string): string {
  const { passwords } = JSON.parse(readFileSync(join(standIns, 'handover.json'), 'utf8')) as {
    passwords: readonly { readonly linkId: string; readonly password: string }[];
  };
  return passwords.find((kept) => kept.linkId === linkId)?.password ?? '';
}

export const test = base.extend({
  baseURL: async ({}, use) => use(plant['HINGE_TEST_URL']),
});
export { expect };

/** Signs somebody in and waits for the page. */
export async function signIn(page: Page, path = '/links', name = 'engineer'): Promise<void> {
  await page.goto(path);
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible();
}

/** Goes to another page within the running application, as its own links do, and waits for it: nothing is loaded anew. */
export async function goWithin(page: Page, path: string): Promise<void> {
  const head = page.getByRole('heading', { level: 1 });
  const before = (await head.textContent()) ?? '';
  await page.evaluate((to) => {
    history.pushState(null, '', to);
    dispatchEvent(new PopStateEvent('popstate', { state: null }));
  }, path);
  await expect(head).not.toHaveText(before);
}

/** The state of the link whose page is shown. */
export const linkState = (page: Page, word: string): Promise<void> =>
  expect(page.locator('.page-head .state')).toContainText(word, { timeout: 120_000 });

/** Opens a field by its label, and chooses one of what it offers by its words. */
export async function choose(page: Page, label: string, words: string): Promise<void> {
  await page.getByRole('combobox', { name: label }).click();
  await page.getByRole('option', { name: words, exact: true }).click();
}
