import { certificateMark } from '../plant/signing-in.js';
import { givenRoles, judgeRoles, trustsUser } from './granted-roles.js';
import type { AskingSession } from './granted-roles.js';
import {
  accessAfter,
  accessChangeHolds,
  roleTurns,
  sayAccessChange,
  stageOfAccessChange,
  undoOfAccessChange,
} from './access-change.js';
import type { AccessChange } from './access-change.js';
import { identityCriteria, sayEndpointRule, sayIdentityRule } from './role-set.js';
import type { IdentityRule, ServerAccess, ServerRole } from './role-set.js';

const role = (name: string, identities: readonly IdentityRule[], more: Partial<ServerRole> = {}): ServerRole => ({
  nodeId: `s=${name}`,
  name,
  identities,
  applications: null,
  endpoints: null,
  isCustom: false,
  isFixed: false,
  isPartlyUnread: false,
  ...more,
});
const user = (criteria: string): IdentityRule => ({ criterion: 'UserName', criteria });
const everybody: IdentityRule = { criterion: 'AuthenticatedUser', criteria: '' };
const access = (...roles: ServerRole[]): ServerAccess => ({
  roles,
  users: [],
  passwordLength: null,
  userCertificates: null,
  unread: [],
});

const secured = {
  url: 'opc.tcp://lehr:4840',
  mode: 'SignAndEncrypt',
  policyUri: 'http://opcfoundation.org/UA/SecurityPolicy#Basic256Sha256',
  transportProfileUri: 'http://opcfoundation.org/UA-Profile/Transport/uatcp-uasc-uabinary',
} as const;
const display: AskingSession = {
  userName: 'display',
  certificate: null,
  applicationUri: 'urn:display',
  endpoint: secured,
};
const nobody: AskingSession = { ...display, userName: null };
const unsecured: AskingSession = { ...display, endpoint: { ...secured, mode: 'None' } };
const unknown: AskingSession = { ...display, endpoint: null };

const verdict = (one: ServerRole, session: AskingSession): string => judgeRoles(access(one), session)[0]?.verdict ?? '';

describe('a role is given', () => {
  it('to the user, the application, everybody or anonymous users, as its rules name them', () => {
    const rules: readonly [IdentityRule, boolean, boolean][] = [
      [user('display'), true, false],
      [user('Display'), false, false],
      [everybody, true, false],
      [{ criterion: 'Anonymous', criteria: '' }, false, true],
      [{ criterion: 'Application', criteria: 'urn:display' }, true, true],
      [{ criterion: 'Application', criteria: 'urn:other' }, false, false],
      [{ criterion: 'TrustedApplication', criteria: '' }, true, true],
      [{ criterion: 'GroupId', criteria: 'display' }, false, false],
      [{ criterion: 'Thumbprint', criteria: 'display' }, false, false],
    ];
    for (const [rule, named, anonymous] of rules)
      expect([rule, ...[display, nobody].map((session) => verdict(role('Observer', [rule]), session))]).toEqual([
        rule,
        named ? 'given' : 'not given',
        anonymous ? 'given' : 'not given',
      ]);
  });

  it('to a user certificate by its thumbprint or subject, or those of one above it, however they are written', () => {
    const shown = { thumbprints: ['AB'.repeat(20), 'CD'.repeat(20)], subjects: ['CN="Room"/O="Works"'], isWhole: true };
    const room = { ...display, userName: `room${certificateMark}`, certificate: shown };
    const by = (criterion: 'Thumbprint' | 'X509Subject', criteria: string) =>
      role('Observer', [{ criterion, criteria }]);
    expect(verdict(by('Thumbprint', 'AB'.repeat(20)), room)).toBe('given');
    expect(verdict(by('Thumbprint', 'cd:'.repeat(20)), room)).toBe('given');
    expect(verdict(by('Thumbprint', 'EF'.repeat(20)), room)).toBe('not given');
    expect(verdict(by('X509Subject', 'CN="Room"/O="Works"'), room)).toBe('given');
    expect(verdict(by('X509Subject', 'CN="Room"'), room)).toBe('not given');
    expect(verdict(role('Observer', [everybody]), room)).toBe('given');
    expect(verdict(role('Observer', [{ criterion: 'Anonymous', criteria: '' }]), room)).toBe('not given');
    expect(verdict(by('Thumbprint', 'AB'.repeat(20)), display)).toBe('not given');
  });

  it('perhaps to a user certificate of which not all above it is known, or which is not known itself', () => {
    const shown = { thumbprints: ['AB'.repeat(20)], subjects: ['CN="Room"'], isWhole: false };
    const room = { ...display, userName: `room${certificateMark}`, certificate: shown };
    const byAuthority = role('Observer', [{ criterion: 'Thumbprint', criteria: 'CD'.repeat(20) }]);
    expect(verdict(byAuthority, room)).toBe('unknown');
    expect(verdict(byAuthority, { ...room, certificate: null })).toBe('unknown');
    expect(verdict(role('Observer', [user('display')]), { ...room, certificate: null })).toBe('not given');
  });

  it('to nobody where it has no rule, and to whom the server alone knows where it says so', () => {
    expect(verdict(role('Observer', []), display)).toBe('not given');
    expect(verdict(role('Observer', [], { isCustom: true }), display)).toBe('unknown');
    expect(verdict(role('Observer', [user('display')], { isCustom: true }), display)).toBe('given');
  });

  it('not for sure where some of its rules could not be read', () => {
    const partly = { isPartlyUnread: true };
    expect(verdict(role('Observer', [], partly), display)).toBe('unknown');
    expect(verdict(role('Observer', [user('display')], partly), display)).toBe('unknown');
    const elsewhere = { ...partly, applications: { exclude: false, listed: ['urn:other'] } };
    expect(verdict(role('Observer', [user('display')], elsewhere), display)).toBe('not given');
  });

  it('by an application only where its channel proves which one it is', () => {
    const trusted = role('Observer', [{ criterion: 'TrustedApplication', criteria: '' }]);
    expect([display, unsecured, unknown].map((session) => verdict(trusted, session))).toEqual([
      'given',
      'not given',
      'unknown',
    ]);
  });

  it('to the applications that are listed, or to all others', () => {
    const limited = (exclude: boolean, ...listed: string[]) =>
      role('Operator', [everybody], { applications: { exclude, listed } });
    const all = [display, unsecured, unknown];
    const verdicts = (one: ServerRole): readonly string[] => all.map((session) => verdict(one, session));
    expect(verdicts(limited(false, 'urn:display'))).toEqual(['given', 'not given', 'unknown']);
    expect(verdicts(limited(false, 'urn:other'))).toEqual(['not given', 'not given', 'not given']);
    expect(verdicts(limited(false))).toEqual(['not given', 'not given', 'not given']);
    expect(verdicts(limited(true, 'urn:display'))).toEqual(['not given', 'not given', 'not given']);
    expect(verdicts(limited(true, 'urn:other'))).toEqual(['given', 'unknown', 'unknown']);
    expect(verdicts(limited(true))).toEqual(['given', 'given', 'given']);
  });

  it('on the endpoints that are listed, whose empty fields are not compared', () => {
    const limited = (exclude: boolean, ...listed: Partial<typeof secured>[]) =>
      role('Operator', [everybody], {
        endpoints: {
          exclude,
          listed: listed.map((rule) => ({ url: '', mode: null, policyUri: '', transportProfileUri: '', ...rule })),
        },
      });
    expect(verdict(limited(false, { mode: 'SignAndEncrypt' }), display)).toBe('given');
    expect(verdict(limited(false, { url: 'opc.tcp://lehr:4840' }), display)).toBe('given');
    expect(verdict(limited(false, { policyUri: `${secured.policyUri}x` as typeof secured.policyUri }), display)).toBe(
      'not given',
    );
    expect(verdict(limited(false), display)).toBe('not given');
    expect(verdict(limited(false, {}), display)).toBe('given');
    expect(verdict(limited(true, { mode: 'SignAndEncrypt' }), display)).toBe('not given');
    expect(verdict(limited(true), unknown)).toBe('given');
    expect(verdict(limited(true, { mode: 'SignAndEncrypt' }), unknown)).toBe('unknown');
  });

  it('to no account that is disabled, or still has its first password', () => {
    const told = (...flags: ('Disabled' | 'MustChangePassword' | 'NoDelete')[]) =>
      judgeRoles(
        { ...access(role('Observer', [everybody])), users: [{ userName: 'display', flags, description: '' }] },
        display,
      )[0];
    expect(told('NoDelete')?.verdict).toBe('given');
    expect(told('Disabled')).toMatchObject({ verdict: 'not given', why: 'The account is disabled.' });
    expect(told('MustChangePassword')?.verdict).toBe('not given');
  });
});

describe('a user certificate that a server', () => {
  const listed = { thumbprint: 'AB'.repeat(20), subject: 'CN=Room', notAfter: '2030-01-01T00:00:00.000Z' };
  const before: ServerAccess = { ...access(role('Observer', [everybody])), userCertificates: [listed] };
  const none: ServerAccess = { ...before, userCertificates: [] };
  const session = (thumbprints: readonly string[], isWhole = true): AskingSession => ({
    ...display,
    userName: `room${certificateMark}`,
    certificate: { thumbprints, subjects: [], isWhole },
  });
  const own = session([listed.thumbprint]);
  const change = { kind: 'trust-user', serverId: 'lehr', ...listed } as const satisfies AccessChange;

  it('does not trust gets no role, and one below an authority that it trusts does', () => {
    expect(givenRoles(judgeRoles(before, own))).toEqual(['Observer']);
    expect(judgeRoles(none, own)[0]).toMatchObject({
      verdict: 'not given',
      why: 'The server does not trust its user certificate.',
    });
    expect(givenRoles(judgeRoles(before, session(['CD'.repeat(20), listed.thumbprint])))).toEqual(['Observer']);
    expect(trustsUser(before, { thumbprints: ['CD'.repeat(20)], subjects: [], isWhole: false })).toBeNull();
    expect(trustsUser(access(), { thumbprints: ['CD'.repeat(20)], subjects: [], isWhole: true })).toBeNull();
  });

  it('is to trust holds once it is in the list, is taken back, and lets sessions in', () => {
    expect(accessChangeHolds(change, before)).toBe(true);
    expect(accessChangeHolds(change, none)).toBe(false);
    expect(accessChangeHolds(change, access())).toBe(false);
    const undo = undoOfAccessChange(change) ?? change;
    expect(undo).toEqual({ ...change, kind: 'distrust-user' });
    expect(accessChangeHolds(undo, none)).toBe(true);
    expect(accessChangeHolds(undo, access())).toBe(false);
    expect(undoOfAccessChange(undo)).toEqual(change);
    expect(accessAfter(none, [change])).toEqual(before);
    expect(accessAfter(access(), [change]).userCertificates).toBeNull();
    expect(roleTurns(before, [undo], [own])).toEqual([{ session: own, gains: [], loses: ['Observer'] }]);
    expect([change, undo].map(stageOfAccessChange)).toEqual([0, 2]);
    expect(sayAccessChange(change, 'Lehr server')).toMatchObject({
      title: 'Let Lehr server trust the user certificate CN=Room',
      after: 'trusted as a user',
    });
  });
});

describe('a change of roles and users', () => {
  const before = access(
    role('Observer', [everybody], {
      applications: { exclude: true, listed: [] },
      endpoints: { exclude: true, listed: [] },
    }),
    role('Operator', [user('technician')]),
  );
  const withUsers = { ...before, users: [{ userName: 'display', flags: [], description: '' }] };
  const rule = (kind: 'add-role-rule' | 'remove-role-rule', criteria: string): AccessChange => ({
    kind,
    serverId: 'lehr',
    roleId: 's=Operator',
    role: 'Operator',
    rule: { about: 'identity', ...user(criteria) },
  });
  const settings = { flags: ['Disabled' as const], description: 'Old' };
  const change: AccessChange = {
    kind: 'change-user',
    serverId: 'lehr',
    userName: 'display',
    before: { flags: [], description: '' },
    after: settings,
    secretId: null,
  };

  it.each([
    rule('add-role-rule', 'display'),
    rule('remove-role-rule', 'technician'),
    {
      ...rule('add-role-rule', ''),
      roleId: before.roles[0]?.nodeId ?? '',
      rule: { about: 'application', uri: 'urn:a' },
    },
    {
      ...rule('add-role-rule', ''),
      roleId: before.roles[0]?.nodeId ?? '',
      rule: { about: 'endpoint', url: '', mode: 'Sign', policyUri: '', transportProfileUri: '' },
    },
    change,
    { ...change, after: null },
    { ...change, userName: 'new', before: null },
  ] as AccessChange[])('holds once it is made, and does not before: $kind', (one) => {
    expect(accessChangeHolds(one, withUsers)).toBe(false);
    const after = accessAfter(withUsers, [one]);
    expect(accessChangeHolds(one, after)).toBe(true);
    const back = undoOfAccessChange(one);
    if (back) expect(accessChangeHolds(back, accessAfter(after, [back]))).toBe(true);
    else expect(one).toMatchObject({ after: null });
  });

  it('says which sessions gain and lose what', () => {
    const technician = { ...display, userName: 'technician' };
    expect(roleTurns(before, [rule('add-role-rule', 'display')], [display, technician])).toEqual([
      { session: display, gains: ['Operator'], loses: [] },
    ]);
    expect(roleTurns(withUsers, [change], [display, technician])).toEqual([
      { session: display, gains: [], loses: ['Observer'] },
    ]);
    expect(givenRoles(judgeRoles(before, technician))).toEqual(['Observer', 'Operator']);
  });

  it('gives before it takes away', () => {
    const stages = [
      rule('add-role-rule', 'a'),
      rule('remove-role-rule', 'a'),
      change,
      { ...change, after: null },
      { ...change, before: null },
    ];
    expect(stages.map(stageOfAccessChange)).toEqual([0, 2, 1, 2, 0]);
  });

  it('is said with before and after', () => {
    expect(sayAccessChange(rule('add-role-rule', 'display'), 'Lehr server')).toEqual({
      title: 'Add the user “display” to the role Operator on Lehr server',
      target: 'Lehr server',
      before: 'Operator: the user “display” not listed',
      after: 'Operator: the user “display” listed',
      undo: 'Remove the rule again.',
    });
    expect(sayAccessChange(change, 'Lehr server')).toMatchObject({ before: 'enabled', after: 'disabled; “Old”' });
    expect(sayAccessChange({ ...change, after: null }, 'Lehr server')).toMatchObject({
      title: 'Remove the user “display” on Lehr server',
      after: 'no such user',
    });
  });

  it('leaves a server without user management as it is', () => {
    const without = { ...before, users: null };
    expect(accessAfter(without, [change])).toEqual(without);
    expect(accessChangeHolds({ ...change, after: null }, without)).toBe(false);
  });

  it('is not done where the rule to remove may be among those that could not be read', () => {
    const rule = { about: 'identity' as const, ...user('display') };
    const removal = {
      kind: 'remove-role-rule' as const,
      serverId: 'lehr',
      roleId: 's=Observer',
      role: 'Observer',
      rule,
    };
    expect(accessChangeHolds(removal, access(role('Observer', [])))).toBe(true);
    expect(accessChangeHolds(removal, access(role('Observer', [], { isPartlyUnread: true })))).toBe(false);
  });
});

it('rules of every kind have words', () => {
  for (const criterion of identityCriteria) expect(sayIdentityRule({ criterion, criteria: 'x' })).not.toBe('');
  expect(sayEndpointRule({ url: '', mode: null, policyUri: '', transportProfileUri: '' })).toBe('any endpoint');
});
