import { boardOf } from '../../testing/plant-answers';
import type { Account, Person, Session } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';

const person = (name: string, differs: Partial<Person> = {}): Person => ({
  name,
  role: 'engineer',
  isDisabled: false,
  mustChangePassword: false,
  hasSecondFactor: false,
  lastSignedInAt: null,
  sessions: 0,
  ...differs,
});
const session = (id: string, isOwn = false): Session => ({
  id,
  since: '2026-11-01T08:00:00Z',
  seenAt: '2026-11-01T09:00:00Z',
  expiresAt: '2026-11-01T20:00:00Z',
  address: '::ffff:127.41.10.5',
  browser: 'A browser',
  isOwn,
});
const account = (differs: Partial<Account> = {}): Account => ({
  name: 'engineer',
  role: 'engineer',
  mustChangePassword: false,
  hasSecondFactor: false,
  recoveryCodesLeft: 0,
  sessions: [session('a', true), session('b')],
  ...differs,
});
const everybody = [
  person('administrator', { role: 'administrator', sessions: 1 }),
  person('night shift', { mustChangePassword: true }),
  person('gone', { isDisabled: true }),
];

describe('the page of people', () => {
  it('counts who can sign in, and narrows by the address', async () => {
    const site = await Site.open('/people', { people: { people: everybody } }, 'administrator');
    expect(site.headline).toBe('2 people can sign in; 1 must change the first password; 1 disabled.');
    await site.fill(/Which people/, 'those who are disabled');
    expect(site.url).toBe('/people?only=disabled');
    expect(site.rows()[0]?.[0]).toBe('gone');
  });

  it('adds a person, and says at the field what is missing', async () => {
    const site = await Site.open(
      '/people',
      { people: { people: everybody }, addPerson: { done: true } },
      'administrator',
    );
    await site.press(/Add a person/);
    await site.fill(/^Name/, 'Day shift');
    await site.fill(/^Role/, 'approver');
    await site.fill(/^First password/, 'short');
    await site.press(/^Save$/);
    expect(site.asked('addPerson')).toEqual([]);
    await site.fill(/^First password/, 'long enough by far');
    await site.press(/^Save$/);
    expect(site.asked('addPerson')).toEqual([{ name: 'Day shift', role: 'approver', password: 'long enough by far' }]);
    expect(site.text).toContain('Day shift can sign in, and changes the password at the first sign-in.');
    expect(site.all('[role=dialog]')).toEqual([]);
  });

  it('keeps what was typed where it is refused', async () => {
    const site = await Site.open(
      '/people',
      { people: { people: everybody }, addPerson: refused('There is a person “Gone” already.') },
      'administrator',
    );
    await site.press(/Add a person/);
    await site.fill(/^Name/, 'Gone');
    await site.fill(/^First password/, 'long enough by far');
    await site.press(/^Save$/);
    expect(site.text).toContain('There is a person “Gone” already.');
    expect(site.filled(/^Name/)).toBe('Gone');
    // It is over with its form.
    await site.press(/^Cancel$/);
    expect(site.text).not.toContain('There is a person “Gone” already.');
  });

  it('shows the sessions of a person, and ends one', async () => {
    const site = await Site.open(
      '/people',
      { people: { people: everybody }, sessionsOf: { sessions: [session('a')] }, endSession: { done: true } },
      'administrator',
    );
    await site.press(/1 session/);
    expect(site.text).toContain('127.41.10.5');
    await site.press(/^End$/);
    expect(site.calls.find(({ name }) => name === 'endSession')?.params).toEqual({ name: 'administrator', id: 'a' });
    expect(site.text).toContain('The session has ended.');
  });

  it('offers nothing to somebody who is no administrator', async () => {
    const site = await Site.open('/people', {}, 'approver');
    expect(site.text).toContain('Only administrators see who can sign in.');
    expect(site.calls.map(({ name }) => name)).not.toContain('people');
  });
});

describe('one’s own page', () => {
  it('changes the password where both times it is the same', async () => {
    const site = await Site.open('/account', { ownAccount: account(), changePassword: { done: true } });
    expect(site.headline).toBe('engineer: signed in at 2 places, by password only.');
    await site.fill(/^Present password/, 'the old one');
    await site.fill(/^New password(?! again)/, 'a much better one');
    await site.fill(/^New password again/, 'a much better two');
    await site.press(/Change password/);
    expect([site.asked('changePassword'), site.faults]).toEqual([[], ['It differs from the one above.']]);
    await site.fill(/^New password again/, 'a much better one');
    await site.press(/Change password/);
    expect(site.asked('changePassword')).toEqual([{ current: 'the old one', next: 'a much better one' }]);
    expect(site.text).toContain('Your other sessions have ended.');
  });

  it('is all that is open before the first password is changed', async () => {
    const first = {
      name: 'engineer',
      role: 'engineer',
      token: 't',
      plantName: 'Works',
      newestEvent: 0,
      mustChangePassword: true,
    } as const;
    const site = await Site.open('/trust', {
      whoAmI: first,
      ownAccount: account({ mustChangePassword: true }),
      changePassword: { done: true },
      links: boardOf([]),
    });
    expect(site.url).toBe('/account');
    expect(site.headline).toBe('engineer: change your first password.');
    await site.fill(/^Present password/, 'the first one');
    await site.fill(/^New password(?! again)/, 'a much better one');
    await site.fill(/^New password again/, 'a much better one');
    await site.press(/Change password/);
    await site.go('/links');
    expect(site.url).toBe('/links');
  });

  it('sets up a second factor, and shows the recovery codes once', async () => {
    const site = await Site.open('/account', {
      ownAccount: account(),
      beginSecondFactor: { uri: 'otpauth://totp/Works:engineer?secret=ABCD', letters: 'ABCD' },
      confirmSecondFactor: { recoveryCodes: ['aaaa-bbbb', 'cccc-dddd'] },
    });
    await site.fill(/^Your password/, 'the password');
    await site.press(/Set up a second factor/);
    expect(site.all('svg[role=img]')[0]?.getAttribute('viewBox')).toMatch(/^0 0 (\d+) \1$/);
    await site.fill(/^The code/, '123456');
    await site.press(/Confirm/);
    expect(site.asked('confirmSecondFactor')).toEqual([{ code: '123456' }]);
    expect(site.text).toContain('aaaa-bbbb');
    await site.press(/I have saved them/);
    expect(site.text).not.toContain('aaaa-bbbb');
  });

  it('ends another session of one’s own', async () => {
    const site = await Site.open('/account', { ownAccount: account(), endOwnSession: { done: true } });
    await site.press(/^End$/);
    expect(site.calls.find(({ name }) => name === 'endOwnSession')?.params).toEqual({ id: 'b' });
  });
});
