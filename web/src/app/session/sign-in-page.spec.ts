import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { Site, refused } from '../../testing/site';
import { sessionActions } from './state';

const person = {
  name: 'engineer',
  role: 'engineer',
  token: 't',
  plantName: 'Works',
  newestEvent: 0,
  mustChangePassword: false,
} as const;

describe('signing in', () => {
  it('leads back to what was wanted', async () => {
    const site = await Site.open('/trust/horizon', { whoAmI: refused('Nobody is signed in.', 401), signIn: person });
    expect(site.url).toBe('/sign-in?back=%2Ftrust%2Fhorizon');
    await site.press(/Sign in/);
    expect([site.asked('signIn'), site.faults]).toEqual([[], ['A name is needed.', 'A password is needed.']]);
    await site.fill(/^Name/, 'engineer');
    await site.fill(/^Password/, 'a secret');
    await site.press(/Sign in/);
    expect(site.asked('signIn')).toEqual([{ name: 'engineer', password: 'a secret' }]);
    expect(site.url).toBe('/trust/horizon');
  });

  it('leads back, too, where several calls were refused one after another', async () => {
    const site = await Site.open('/trust/horizon', { signIn: person });
    const store = TestBed.inject(Store);
    store.dispatch(sessionActions.ended());
    store.dispatch(sessionActions.ended());
    await site.settle();
    store.dispatch(sessionActions.ended());
    await site.settle();
    expect(site.url).toBe('/sign-in?back=%2Ftrust%2Fhorizon');
  });

  it('that is refused says why, and loses no name', async () => {
    const site = await Site.open('/sign-in', { signIn: refused('Name and password do not match.', 401) });
    await site.fill(/^Name/, 'engineer');
    await site.fill(/^Password/, 'wrong');
    await site.press(/Sign in/);
    expect(site.one('[role=alert]').textContent).toContain('do not match');
    expect(site.filled(/^Name/)).toBe('engineer');
  });

  it('asks for a code once the password was right', async () => {
    const site = await Site.open('/sign-in', { signIn: refused('A code is wanted besides.', 401, 'code-needed') });
    expect(site.text).not.toContain('recovery code');
    await site.fill(/^Name/, 'engineer');
    await site.fill(/^Password/, 'a secret');
    await site.press(/Sign in/);
    site.answers.signIn = person;
    await site.fill(/^Code/, '123456');
    await site.press(/Sign in/);
    expect(site.asked('signIn')[1]).toEqual({ name: 'engineer', password: 'a secret', code: '123456' });
  });

  it('leads nowhere for an address that is none', async () => {
    const site = await Site.open('/no/such/place', {});
    expect(site.text).toContain('There is no such page.');
  });
});
