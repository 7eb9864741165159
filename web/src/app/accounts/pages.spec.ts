import type {
  AccessView,
  AccountView,
  AccountsView,
  ServerReportsView,
  UserCertificateView,
  WorkOrder,
} from '@loyal-hinge/contract';
import { Refused, Site, refused } from '../../testing/site';

const account = (differs: Partial<AccountView> = {}): AccountView => ({
  serverId: 'lehr',
  server: 'Lehr server',
  machine: 'Lehr',
  userName: 'collector',
  links: [{ id: 'history--lehr', name: 'History to Lehr' }],
  clients: ['History collector'],
  administers: false,
  roles: ['AuthenticatedUser', 'Observer'],
  user: { flags: [], description: '' },
  password: 'stored',
  certificate: null,
  signedInAt: '2026-03-01T12:00:00.000Z',
  signedInBy: 'History to Lehr',
  refusedAt: null,
  pausedUntil: null,
  weaknesses: [],
  ...differs,
});
const refusedOne = account({
  userName: 'technician',
  roles: null,
  user: null,
  signedInAt: null,
  signedInBy: null,
  refusedAt: '2026-03-01T12:00:00.000Z',
  pausedUntil: '2026-03-01T12:30:00.000Z',
  weaknesses: [{ kind: 'refused', grade: 'fails', says: 'The server refused it 2 times in a row.' }],
});
const known = (differs: Partial<AccountsView> = {}): AccountsView => ({
  accounts: [refusedOne, account(), account({ userName: null, links: [], password: 'none', roles: ['Anonymous'] })],
  unread: [{ serverId: 'cutter', server: 'Cutter server', says: 'It can’t be reached.' }],
  from: 0,
  fitting: 3,
  counts: { accounts: 3, servers: 1, weak: 1, read: 1, readable: 2 },
  ...differs,
});
const user = { userName: 'collector', flags: [], description: '', links: 1, administers: false };
const technicians = { about: 'identity' as const, criterion: 'UserName' as const, criteria: 'technician' };
const role = {
  nodeId: 'i=15680',
  name: 'Operator',
  rules: [
    { rule: technicians, says: 'the user “technician”' },
    { rule: { about: 'application' as const, uri: 'urn:a' }, says: 'the application urn:a' },
  ],
  applications: { exclude: true, listed: 1 },
  endpoints: null,
  isCustom: false,
  isFixed: false,
};
const access = (differs: Partial<AccessView> = {}): AccessView => ({
  server: { id: 'lehr', name: 'Lehr server', machine: 'Lehr' },
  canBeRead: true,
  says: null,
  seenAt: '2026-03-01T12:00:00.000Z',
  roles: [role, { ...role, nodeId: 'i=1', name: 'Engineer', rules: [], applications: null }],
  users: [user, { ...user, userName: 'security', flags: ['NoDelete'], links: 0, administers: true }],
  passwordLength: { least: 8, most: 64 },
  userCertificates: null,
  connected: null,
  unread: [],
  sessions: [
    {
      link: { id: 'history--lehr', name: 'History to Lehr' },
      client: 'History collector',
      userName: 'collector',
      roles: [{ role: 'Operator', verdict: 'given', why: '' }],
    },
  ],
  ...differs,
});
const order: WorkOrder = {
  id: 'o1',
  title: 'A change',
  state: 'proposed',
  proposedBy: 'engineer',
  proposedAt: '2026-03-01T12:00:00.000Z',
  decidedBy: null,
  decidedAt: null,
  lines: [],
};
const secretId = '0b9d3c4e-7c1f-4b3a-9a52-0d3c1c8f2e11';

describe('the page of identities', () => {
  const open = (answers: Parameters<typeof Site.open>[1] = {}, path = '', role: 'engineer' | 'viewer' = 'engineer') =>
    Site.open(`/entry/identities${path}`, { accounts: known(), ...answers }, role);

  it('says who signs in where, for which links, and what needs attention', async () => {
    const site = await open();
    expect(site.headline).toBe('3 accounts at 1 server; 1 needs attention.');
    expect(site.text).toContain('read at 1 of 2 servers');
    expect(site.text).toContain('1 server could not be read: Cutter server');
    const rows = site.rows().map((cells) => cells.join(' '));
    expect(rows[0]).toMatch(/technician not read yet .*never The server refused it 2 times in a row\./);
    expect(rows[1]).toMatch(/collector Observer History to Lehr/);
    expect(rows[2]).toMatch(/anonymous Anonymous no link/);
  });

  it('asks for what the address has, and for all again where nothing is so', async () => {
    let wished: object = {};
    const none = (wish: object) => ((wished = wish), known({ accounts: [], fitting: 0 }));
    const site = await open({ accounts: none }, '?only=shared&from=50');
    expect(wished).toMatchObject({ only: 'shared', from: '50' });
    await site.press(/^Show all$/);
    expect(site.url).toBe('/entry/identities');
  });

  it('says what comes first in an empty plant', async () => {
    const counts = { accounts: 0, servers: 0, weak: 0, read: 0, readable: 0 };
    const site = await open({ accounts: known({ accounts: [], unread: [], fitting: 0, counts }) });
    expect(site.headline).toBe('Nobody signs in anywhere yet.');
    expect(site.text).toContain('It fills as soon as a link leads to a server.');
  });

  it('has all servers read, by engineers only', async () => {
    const site = await open({ readAllAccess: { begun: 2 } });
    await site.press(/^Read roles and users$/);
    expect(site.told).toContain('2 servers are being read.');
    const viewer = await open({}, '', 'viewer');
    expect(viewer.button(/^Read roles and users$/).disabled).toBe(true);
  });

  it('tells more of an account, and why it is not tried now', async () => {
    const site = await open({}, '?open=lehr%2Ftechnician');
    expect(site.text).toContain('so that the account does not get locked');
    expect(site.text).toContain('its users are not known, or it is not among them');
  });

  it('proposes a new password as a work order, once it was typed twice and the server takes it', async () => {
    const site = await open({ sealPassword: { secretId }, proposeOrder: order, order }, '?open=lehr%2Fcollector');
    await site.press(/^Change the password …$/);
    await site.press(/^Propose a work order$/);
    expect(site.faults.length).toBe(2);
    await site.fill(/^New password$/, 'one of them');
    await site.fill(/^New password again/, 'another one');
    await site.press(/^Propose a work order$/);
    expect(site.text).toContain('The two are not the same.');
    expect(site.asked('sealPassword')).toEqual([]);
    await site.fill(/^New password again/, 'one of them');
    await site.press(/^Propose a work order$/);
    expect(site.asked('sealPassword')[0]).toEqual({ userName: 'collector', password: 'one of them' });
    const proposed = site.asked('proposeOrder')[0];
    expect(proposed).toMatchObject({
      lines: [{ change: { kind: 'change-password', userName: 'collector', secretId }, linkIds: ['history--lehr'] }],
    });
    expect(JSON.stringify(proposed)).not.toContain('one of them');
  });

  it('says at the field what the server finds wrong with a password', async () => {
    const site = await open({ sealPassword: tooShort }, '?open=lehr%2Fcollector');
    await site.press(/^Change the password …$/);
    for (const field of [/^New password$/, /^New password again/]) await site.fill(field, 'short');
    await site.press(/^Propose a work order$/);
    expect(site.faults).toContain('This one has 5.');
    expect(site.asked('proposeOrder')).toEqual([]);
  });
});

const tooShort = new Refused({
  ...refused('Lehr server takes passwords of 8 to 64 characters.', 400, 'not-valid').problem,
  faults: [{ place: 'password', says: 'This one has 5.' }],
});

describe('the page of a server’s roles and users', () => {
  const open = (answers: Parameters<typeof Site.open>[1] = {}, role: 'engineer' | 'viewer' = 'engineer') =>
    Site.open(
      '/entry/identities/lehr',
      { access: access(), userCertificates: { certificates: [] }, serverReports: reports(), ...answers },
      role,
    );
  const reports = (differs: Partial<ServerReportsView> = {}): ServerReportsView => ({
    listening: null,
    ended: null,
    reports: [],
    total: 0,
    refused: 0,
    ...differs,
  });
  const turns = {
    turns: [
      {
        link: { id: 'history--lehr', name: 'History to Lehr' },
        userName: 'collector',
        gains: [],
        loses: ['Operator'],
        writes: true,
      },
      { link: null, userName: 'security', gains: [], loses: ['SecurityAdmin'], writes: false },
    ],
  };

  it('says which roles are given to whom, and which links get them', async () => {
    const site = await open();
    expect(site.headline).toBe('Lehr server gives 1 role to links.');
    const [operator] = site.rows().map((cells) => cells.join(' '));
    expect(operator).toMatch(/Operator the user “technician” Remove not for the application urn:a Remove/);
    expect(operator).toMatch(/History to Lehr as collector$/);
    expect(site.text).toContain('Given to nobody: Engineer.');
    expect(site.text).toContain('Loyal Hinge, as administrator');
  });

  it('says how to begin where nothing was read, and why it failed', async () => {
    const unread = access({ seenAt: null, roles: [], users: null, sessions: [] });
    const site = await open({
      access: { ...unread, says: 'It can’t be reached.' },
      readAccess: refused('It is away.'),
    });
    expect(site.headline).toBe('Roles and users of Lehr server are not known.');
    expect(site.text).toContain('It can’t be reached.');
    await site.press(/^Read roles and users$/);
    expect(site.text).toContain('It is away.');
    const without = await open({ access: { ...unread, canBeRead: false } });
    expect(without.text).toContain('No administrator’s access to Lehr server is stored');
  });

  it('tries a removed rule out, takes it back, and proposes it', async () => {
    const site = await open({ accessWhatIf: turns, proposeOrder: order, order });
    await site.press(/^Remove$/);
    expect(site.asked('accessWhatIf')[0]).toEqual({
      changes: [{ kind: 'remove-role-rule', serverId: 'lehr', roleId: 'i=15680', role: 'Operator', rule: technicians }],
    });
    expect(site.text).toContain('1 link loses a role.');
    expect(site.text).toContain('loses Operator, and needs to write');
    expect(site.text).toMatch(/Loyal Hinge, as administrator as security ?loses SecurityAdmin/);
    await site.press(/^Undo$/);
    expect(site.text).not.toContain('loses Operator');
    await site.press(/^Remove$/);
    await site.press(/^Propose a work order$/);
    expect(site.asked('proposeOrder')[0]).toMatchObject({ lines: [{ linkIds: ['history--lehr'] }] });
  });

  it('tries a new rule out, and asks for what it needs', async () => {
    const site = await open({ accessWhatIf: { turns: [] } });
    await site.press(/^Add a rule …$/);
    await site.press(/^Try it out$/);
    expect(site.faults.length).toBe(2);
    await site.fill(/^Role$/, 'Engineer');
    await site.fill(/^The role is given$/, 'to every user who has signed in');
    await site.press(/^Try it out$/);
    expect(site.asked('accessWhatIf')[0]).toMatchObject({
      changes: [{ kind: 'add-role-rule', role: 'Engineer', rule: { criterion: 'AuthenticatedUser', criteria: '' } }],
    });
    expect(site.text).toContain('No link is given another role by this.');
  });

  it('tries a new user out whose password is sealed at once, and disables others', async () => {
    const site = await open({ accessWhatIf: { turns: [] }, sealPassword: { secretId } });
    await site.press(/^Add a user …$/);
    await site.fill(/^User name/, 'night');
    await site.fill(/^Password$/, 'long enough');
    await site.press(/^Try it out$/);
    const added = { kind: 'change-user', userName: 'night', before: null, after: { flags: [] }, secretId };
    expect(site.asked('accessWhatIf').at(-1)).toMatchObject({ changes: [added] });
    await site.press(/^Disable$/);
    expect(site.asked('accessWhatIf').at(-1)).toMatchObject({
      changes: [added, { userName: 'collector', after: { flags: ['Disabled'] } }],
    });
    await site.press(/^Clear$/);
    expect(site.text).not.toContain('Add the user “night”');
  });

  it('says who is connected, and what is weak about each', async () => {
    const session = {
      id: 'i=1',
      name: 'Session1',
      applicationUri: 'urn:laptop',
      applicationName: 'Laptop',
      user: null,
      mechanism: 'UserName',
      mode: 'None' as const,
      policyUri: '',
      connectedAt: '2026-03-01T12:00:00.000Z',
      items: 4,
      unauthorized: 2,
      isOwn: false,
      weaknesses: [{ grade: 'fails' as const, says: 'Nothing secures its channel.' }],
    };
    const own = { ...session, id: 'i=2', applicationName: 'Desk', mode: 'Sign' as const, isOwn: true, weaknesses: [] };
    const connected = {
      readAt: '2026-03-01T12:00:00.000Z',
      says: '1 session beside our own.',
      sessions: [session, own],
    };
    const site = await open({ access: access({ roles: [], users: [], connected }) });
    expect(site.text).toContain('1 session beside our own.');
    const rows = site.rows().map((cells) => cells.join(' '));
    expect(rows.find((row) => row.startsWith('Laptop'))).toMatch(/Nothing secures its channel\. UserName none 4 2/);
    expect(rows.find((row) => row.startsWith('Desk'))).toMatch(/which reads this/);
    const silent = await open({ access: access({ connected: { ...connected, sessions: null } }) });
    expect(silent.text).not.toContain('Laptop');
  });

  it('shows what the server reports of itself, and listens for as long as somebody wants', async () => {
    const report = {
      id: 2,
      at: '2026-03-01T12:00:00.000Z',
      kind: 'sign-in' as const,
      outcome: 'refused' as const,
      says: 'A sign-in was refused.',
      userName: 'night',
      application: 'Laptop',
    };
    const written = {
      ...report,
      id: 1,
      kind: 'write' as const,
      outcome: 'done' as const,
      says: 'Written to Lehr: 1 → 2.',
    };
    const kept = { reports: [report, written], total: 2, refused: 1 };
    const ended = { at: '2026-03-01T12:05:00.000Z', says: 'The time was over.' };
    const site = await open({ serverReports: reports({ ...kept, ended }), listenToServer: reports(kept) });
    expect(site.text).toContain('2 audit events are kept, 1 of them a refusal. Listening ended at');
    expect(site.rows('hinge-server-reports tbody tr').map((cells) => cells.slice(1))).toEqual([
      ['A sign-in was refused.', 'refused', 'night', 'Laptop'],
      ['Written to Lehr: 1 → 2.', 'done', 'night', 'Laptop'],
    ]);
    await site.fill(/^Kind$/, 'what was refused');
    expect(site.rows('hinge-server-reports tbody tr')).toHaveLength(1);
    await site.press(/^Listen …$/);
    expect(site.text).toContain('Checks of this machine wait meanwhile.');
    await site.fill(/^For$/, '15 minutes');
    const listening = { askedBy: 'engineer', since: report.at, until: ended.at, heard: 0, says: 'Listening.' };
    Object.assign(site.answers, { serverReports: reports({ ...kept, listening }), listenNoMore: { done: true } });
    await site.press(/^Listen$/);
    expect(site.asked('listenToServer')).toEqual([{ minutes: 15 }]);
    expect(site.text).toContain('Listening. 2 audit events are kept');
    await site.press(/^Listen no more$/);
    expect(site.asked('listenNoMore')).toHaveLength(1);
    expect((await open({}, 'viewer')).button(/^Listen …$/).disabled).toBe(true);
  });

  it('tries out which user certificates the server trusts, and takes it back', async () => {
    const listed = {
      thumbprint: 'CD'.repeat(20),
      subject: 'CN=Night shift',
      notAfter: '2030-01-01T12:00:00.000Z',
      name: null,
      links: 0,
    };
    const site = await open({
      access: access({ roles: [], users: [], userCertificates: [listed] }),
      userCertificates: { certificates: [roomCertificate] },
      accessWhatIf: { turns: [] },
      proposeOrder: order,
      order,
    });
    expect(site.text).toContain('CN=Night shift');
    await site.press(/^Trust “control-room”$/);
    expect(site.asked('accessWhatIf')[0]).toMatchObject({
      changes: [{ kind: 'trust-user', thumbprint: 'AB'.repeat(20), subject: 'CN=Control room, O=Works' }],
    });
    expect(site.text).toContain('Let Lehr server trust the user certificate CN=Control room, O=Works');
    await site.press(/^Remove$/);
    expect(site.asked('accessWhatIf').at(-1)).toMatchObject({
      changes: [{ kind: 'trust-user' }, { kind: 'distrust-user', thumbprint: 'CD'.repeat(20) }],
    });
    await site.press(/^Clear$/);
    expect(site.text).toContain('Trust “control-room”');
    await site.press(/^Trust “control-room”$/);
    await site.press(/^Propose a work order$/);
    expect(site.asked('proposeOrder')[0]).toMatchObject({
      title: 'Change the user certificates that Lehr server trusts',
      lines: [{ change: { kind: 'trust-user', thumbprint: 'AB'.repeat(20) } }],
    });
  });

  it('lets a viewer look, and change nothing', async () => {
    const site = await open({}, 'viewer');
    for (const name of [/^Read again$/, /^Remove$/, /^Add a rule/, /^Disable$/, /^Add a user/])
      expect([name, site.button(name).disabled]).toEqual([name, true]);
  });
});

const roomCertificate: UserCertificateView = {
  name: 'control-room',
  certificate: {
    thumbprint: 'AB'.repeat(20),
    subject: 'CN=Control room, O=Works',
    criteria: 'CN="Control room"/O="Works"',
    issuer: 'CN=Control room, O=Works',
    notBefore: '2026-01-01T12:00:00.000Z',
    notAfter: '2040-01-01T12:00:00.000Z',
  },
  trustedBy: [{ id: 'scales', name: 'Batch scales server' }],
  setAt: '2026-03-01T12:00:00.000Z',
  setBy: 'engineer',
  links: [{ id: 'display--scales', name: 'Display to Scales' }],
};
const missingCertificate = {
  ...roomCertificate,
  name: 'night',
  certificate: null,
  setAt: null,
  setBy: null,
  links: [],
};

describe('the page of user certificates', () => {
  const open = (
    certificates: readonly UserCertificateView[] = [roomCertificate, missingCertificate],
    answers: Parameters<typeof Site.open>[1] = {},
    path = '',
  ) =>
    Site.open(`/entry/user-certificates${path}`, { userCertificates: { certificates: [...certificates] }, ...answers });

  it('says what is stored, until when it holds, and who uses it', async () => {
    const ended = { ...roomCertificate.certificate, notAfter: '2026-02-01T12:00:00.000Z' } as const;
    const expired = { ...roomCertificate, name: 'old', certificate: ended as UserCertificateView['certificate'] };
    const site = await open([roomCertificate, missingCertificate, expired]);
    expect(site.headline).toBe('3 user certificates; 1 is not stored; 1 has expired or soon will.');
    const rows = site.rows().map((cells) => cells.join(' '));
    expect(rows[0]).toMatch(/control-room CN=Control room, O=Works .*Display to Scales/);
    expect(rows[1]).toMatch(/night not stored here +no link/);
  });

  it('says what they are good for where there is none', async () => {
    const site = await open([]);
    expect(site.headline).toBe('No user certificate is stored.');
    expect(site.text).toContain('It takes the place of a password');
  });

  it('shows what rules of roles go by, and lets none be forgotten that links use', async () => {
    const site = await open([roomCertificate], {}, '?open=control-room');
    expect(site.text).toContain('CN="Control room"/O="Works"');
    expect(site.text).toContain('Issueritself');
    expect(site.button(/^Forget it/).disabled).toBe(true);
    expect(site.text).toContain('It can be forgotten once no link signs in with it.');
  });

  it('forgets one that no link uses, once that was asked', async () => {
    const idle = { ...roomCertificate, links: [] };
    const site = await open([idle], { forgetUserCertificate: { done: true } }, '?open=control-room');
    await site.press(/^Forget it …$/);
    expect(site.asked('forgetUserCertificate')).toEqual([]);
    await site.press(/^Forget it$/);
    expect(site.asked('forgetUserCertificate').length).toBe(1);
    expect(site.told).toContain('were forgotten.');
  });

  it('has one made here, under a name that it is asked for', async () => {
    const site = await open([], { putUserCertificate: roomCertificate });
    await site.press(/^Add a user certificate$/);
    await site.press(/^Store certificate and key$/);
    expect(site.faults).toContain('A name is needed.');
    await site.fill(/^Certificate and key/, 'are made here, signed by itself');
    await site.fill(/^Name in the plant/, 'control-room');
    await site.fill(/^Common name/, 'Control room');
    await site.press(/^Store certificate and key$/);
    expect(site.asked('putUserCertificate')[0]).toEqual({
      by: 'making',
      commonName: 'Control room',
      organization: '',
      keyKind: 'RSA 2048',
      validDays: 730,
    });
    expect(site.told).toContain('was stored, its key encrypted.');
  });

  it('says at its field what the server finds wrong, and keeps what was typed', async () => {
    const wrong = new Refused({
      ...refused('This key does not belong to the certificate.', 400, 'not-valid').problem,
      faults: [{ place: 'privateKeyPem', says: 'This key does not belong to the certificate.' }],
    });
    const site = await open([roomCertificate], { putUserCertificate: wrong }, '?open=control-room');
    await site.press(/^Replace it …$/);
    await site.fill(/^Certificate and key/, 'come in two files (PEM)');
    await site.choose(/^Certificate \(PEM\)/, 'own.pem', 'a certificate');
    await site.choose(/^Private key/, 'own.key', 'a key');
    await site.press(/^Store certificate and key$/);
    expect(site.faults).toContain('This key does not belong to the certificate.');
    expect(site.asked('putUserCertificate').length).toBe(1);
  });
});
