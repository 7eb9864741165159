import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';

/** What axe finds serious on a page; of some rules alone where they are named. */
export async function seriousIn(page: Page, ...rules: string[]): Promise<string[]> {
  // There are no frames within a page: what it finds need not be put together in a further one.
  const axe = new AxeBuilder({ page }).options({ resultTypes: ['violations'] }).setLegacyMode();
  const { violations } = await (rules.length > 0 ? axe.withRules(rules) : axe).analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${page.url()} ${id}: ${nodes[0]?.html.slice(0, 120) ?? ''}`);
}
