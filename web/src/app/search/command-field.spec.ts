import { TestBed } from '@angular/core/testing';
import { boardOf } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';
import { Keys } from '../shell/keys';
import { CommandField } from './command-field';
import type { Found } from './found';

const page = (name: string, path: string): Found => ({ name, about: '', way: { path: [path], query: {} }, keys: '' });
const pages = [page('Links', '/links'), page('Plan of trust', '/trust/plan')];
const hits = [{ kind: 'link' as const, id: 'display--lehr', name: 'Display to Lehr', about: 'Parted' }];

/** The field over a page, as the frame of the application opens it. */
async function openField(site: Site): Promise<{ readonly closed: () => boolean }> {
  const fixture = TestBed.createComponent(CommandField);
  fixture.componentRef.setInput('pages', pages);
  let isClosed = false;
  fixture.componentInstance.closed.subscribe(() => {
    isClosed = true;
    fixture.destroy();
  });
  fixture.detectChanges();
  await site.until(() => site.all('input[aria-label="Find anything"]').length > 0);
  return { closed: () => isClosed };
}
const type = async (site: Site, words: string): Promise<void> => {
  await site.fill(/^Find anything$/, words);
  await site.until(() => site.all('body > .p-overlay li').length > 0);
};
const offered = (site: Site) =>
  site.all('body > .p-overlay li').map(({ textContent }) => textContent?.replace(/\s+/g, ' ').trim());

describe('the command field', () => {
  it('finds pages, actions and what the server knows, and goes there', async () => {
    const site = await Site.open('/links', { links: boardOf([]), search: { hits } });
    const field = await openField(site);
    await type(site, 'l');
    expect(offered(site)).toEqual(
      expect.arrayContaining(['Pages', 'Plan of trust', 'Links', 'Display to Lehr Parted']),
    );
    await site.pick(/^Display to Lehr/);
    expect([site.url, field.closed()]).toEqual(['/links/display--lehr', true]);
  });

  it('does what a key of the page does', async () => {
    const site = await Site.open('/links', { links: boardOf([]), search: { hits: [] } });
    const done: string[] = [];
    TestBed.inject(Keys).add({ z: { does: 'read all lists', run: () => done.push('read') } });
    await openField(site);
    await type(site, 'all lists');
    await site.pick(/^Read all lists z$/);
    expect([site.url, done]).toEqual(['/links', ['read']]);
  });

  it('takes what was typed before it was there', async () => {
    const site = await Site.open('/links', { links: boardOf([]), search: { hits } });
    const keys = TestBed.inject(Keys);
    keys.awaitField();
    for (const key of 'plan') keys.hear(new KeyboardEvent('keydown', { key, cancelable: true }));
    await openField(site);
    await site.until(() => site.all('body > .p-overlay li').length > 0);
    expect(offered(site)).toContain('Plan of trust');
  });

  it('finds pages where the server does not answer, and says so', async () => {
    const site = await Site.open('/links', { links: boardOf([]), search: refused('It is away.', 503) });
    await openField(site);
    await type(site, 'plan');
    expect(site.text).toContain('The server does not answer');
    await site.pick(/^Plan of trust$/);
    expect(site.url).toBe('/trust/plan');
  });
});
