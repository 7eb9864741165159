import { expect } from '@playwright/test';
import type { Page } from '@playwright/test';

export const password = process.env['HINGE_TEST_PASSWORD'] ?? '';

/** Signs somebody in and waits for the page. */
export async function signIn(page: Page, path = '/links', name = 'engineer'): Promise<void> {
  await page.goto(path);
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible();
}

/** The state of the link whose page is shown. */
export const linkState = (page: Page, word: string): Promise<void> =>
  expect(page.locator('.page-head .state')).toContainText(word, { timeout: 120_000 });
