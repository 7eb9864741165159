import { weaknessesOfAccount } from './accounts.js';
import type { Account, AccountLink } from './accounts.js';

const link = (client: string, passwordMark: string | null = 'a'): AccountLink => ({
  id: `${client}--lehr`,
  name: `${client} → Lehr`,
  clientId: client,
  client,
  passwordMark,
});
const user = (...flags: ('Disabled' | 'MustChangePassword')[]) => ({ userName: 'display', flags, description: '' });
const well: Account = {
  userName: 'display',
  links: [link('display')],
  certificate: null,
  administers: false,
  user: user(),
  areUsersKnown: true,
  signedInAt: '2026-03-01T02:10:00.000Z',
  refusals: 0,
  sameElsewhere: [],
};
const now = '2026-03-01T12:00:00.000Z';
const until = (notAfter: string, notBefore = '2025-01-01'): Partial<Account> => ({
  certificate: {
    isTrusted: true,
    validity: { notBefore: `${notBefore}T12:00:00.000Z`, notAfter: `${notAfter}T12:00:00.000Z` },
  },
});
const validity = { notBefore: '2025-01-01T12:00:00.000Z', notAfter: '2027-01-01T12:00:00.000Z' };
const missing = { certificate: { isTrusted: true, validity: null } };
const kinds = (differs: Partial<Account>): readonly string[] =>
  weaknessesOfAccount({ ...well, ...differs }, now).map(({ kind }) => kind);

describe('an account', () => {
  it('that one client uses, and that the server lets in, has no weakness', () => {
    expect(kinds({})).toEqual([]);
    expect(kinds({ userName: null, user: null })).toEqual([]);
    expect(kinds({ user: null, areUsersKnown: false })).toEqual([]);
  });

  it.each<[string, Partial<Account>, Partial<Account>]>([
    ['refused', { refusals: 1 }, { refusals: 0 }],
    ['not at the server', { user: null }, { user: null, links: [], administers: true }],
    ['disabled', { user: user('Disabled') }, { user: user('Disabled'), links: [] }],
    ['first password', { user: user('MustChangePassword') }, {}],
    [
      'passwords differ',
      { links: [link('display'), link('display', 'b')] },
      { links: [link('display'), link('display', null)] },
    ],
    ['never signed in', { signedInAt: null }, { signedInAt: null, links: [], administers: true }],
    ['shared', { links: [link('display'), link('history')] }, { links: [link('display'), link('display')] }],
    ['same password elsewhere', { sameElsewhere: ['Furnace server'] }, {}],
    ['certificate not stored', missing, { ...missing, links: [] }],
    [
      'certificate not trusted',
      { certificate: { isTrusted: false, validity } },
      { certificate: { isTrusted: null, validity } },
    ],
    ['certificate out of date', until('2026-02-28'), until('2026-03-02')],
    ['certificate out of date', until('2027-03-02', '2026-03-02'), until('2027-03-02', '2026-02-28')],
    ['certificate ends soon', until('2026-04-29'), until('2026-05-01')],
    ['not used', { links: [] }, { links: [], administers: true }],
  ])('is found to be %s, and just not', (kind, fires, justNot) => {
    expect(kinds(fires)).toEqual([kind]);
    expect(kinds(justNot)).not.toContain(kind);
  });

  it('has its weaknesses told in words, the gravest first', () => {
    const told = weaknessesOfAccount(
      {
        ...well,
        refusals: 2,
        links: ['a', 'b', 'c', 'd', 'e', 'f'].map((client) => link(client)),
        sameElsewhere: ['Furnace server', 'Cutter server'],
      },
      now,
    );
    expect(told).toEqual([
      { kind: 'refused', grade: 'fails', says: 'The server refused it 2 times in a row.' },
      { kind: 'shared', grade: 'slight', says: '6 clients share it: a, b, c and 3 more.' },
      {
        kind: 'same password elsewhere',
        grade: 'slight',
        says: 'The same password is used at Furnace server and Cutter server.',
      },
    ]);
  });
});
