import type { AccessView, AccountsView, LinkDetail, WorkOrder } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { found } from '../testing/found.js';
import { plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const serverId = 'lehr-server';
const own = ownServer('accounts');
let engineer: Caller;
let approver: Caller;
let viewer: Caller;
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  [engineer, approver, viewer] = [
    await signIn('engineer', url, ownPassword),
    await signIn('approver', url, ownPassword),
    await signIn('viewer', url, ownPassword),
  ];
});
/** The made-up servers outlive this test: whoever uses them next finds the password that they began with. */
afterAll(async () => {
  const password = plantGiven().passwords.find(({ linkId }) => linkId === 'history--lehr')?.password ?? '';
  const { secretId } = await engineer.call('sealPassword', { serverId }, { userName: 'collector', password });
  await carriedOut({ kind: 'change-password', serverId, userName: 'collector', secretId });
  await own.remove();
});

const access = (): Promise<AccessView> => engineer.call('access', { serverId });
const accounts = (): Promise<AccountsView> => engineer.call('accounts', {});

async function carriedOut(change: Parameters<typeof propose>[0]): Promise<WorkOrder> {
  const { id } = await propose(change);
  await approver.call('approveOrder', { id }, {});
  await engineer.call('carryOutOrder', { id }, {});
  return until(
    () => engineer.call('order', { id }),
    ({ lines }) => lines.every(({ state }) => state === 'proved' || state === 'failed' || state === 'by hand'),
  );
}
const propose = (change: WorkOrder['lines'][number]['change'], linkIds: string[] = []): Promise<WorkOrder> =>
  engineer.call('proposeOrder', {}, { title: 'A change of roles', lines: [{ change, why: 'It is tried.', linkIds }] });

describe('roles and users of a server', () => {
  it('are not known before they are read, and say so', async () => {
    expect(await access()).toMatchObject({ canBeRead: true, seenAt: null, roles: [], users: null });
    expect(await engineer.refused('accessWhatIf', { serverId }, { changes: [ruleFor('display')] })).toMatchObject({
      status: 409,
    });
    expect(await viewer.refused('readAccess', { serverId }, {})).toMatchObject({ status: 403 });
    expect(await engineer.refused('access', { serverId: 'nowhere' })).toMatchObject({ status: 404 });
  });

  it('are read as the administrator, with what each is to the links', async () => {
    await engineer.call('readAccess', { serverId }, {});
    const view = await access();
    expect(view.roles.find(({ name }) => name === 'Operator')?.rules.map(({ says }) => says)).toEqual([
      'the user “technician”',
    ]);
    expect(view.users?.map(({ userName }) => userName)).toEqual(expect.arrayContaining(['display', 'security']));
    const collector = view.sessions.find(({ userName }) => userName === 'collector');
    expect(collector?.roles.find(({ role }) => role === 'Observer')).toMatchObject({ verdict: 'given' });
    expect(collector?.roles.find(({ role }) => role === 'Operator')).toMatchObject({ verdict: 'not given' });
  });

  it('are changed by a work order: what it would do is seen before, it is proved, and undone', async () => {
    const change = ruleFor('collector');
    const { turns } = await engineer.call('accessWhatIf', { serverId }, { changes: [change] });
    expect(turns.map(({ link }) => link?.id)).toContain('history--lehr');
    for (const turn of turns) expect(turn).toMatchObject({ userName: 'collector', gains: ['Operator'], loses: [] });
    expect(
      await engineer.refused(
        'accessWhatIf',
        { serverId },
        { changes: [{ ...change, roleId: 'ns=0;i=1', role: 'Baker' }] },
      ),
    ).toMatchObject({ status: 409, detail: 'Lehr server has no role Baker.' });
    const ours = {
      ...ruleFor('security'),
      kind: 'remove-role-rule' as const,
      roleId: 'ns=0;i=15704',
      role: 'SecurityAdmin',
    };
    expect((await engineer.call('accessWhatIf', { serverId }, { changes: [ours] })).turns).toEqual([
      { link: null, userName: 'security', gains: [], loses: ['SecurityAdmin'], writes: false },
    ]);
    const order = await carriedOut(change);
    expect(order.lines[0]).toMatchObject({ state: 'proved', says: 'The server has taken it.' });
    expect(operators(await access())).toEqual(['the user “technician”', 'the user “collector”']);
    const undone = await engineer.call('undoLine', { id: order.id, position: '1' }, {});
    expect(undone.lines[0]?.state).toBe('undone');
    expect(operators(await access())).toEqual(['the user “technician”']);
  });

  it('has users added, disabled and removed', async () => {
    const { secretId } = await engineer.call(
      'sealPassword',
      { serverId },
      { userName: 'night', password: 'long enough' },
    );
    const settings = { flags: [], description: 'Night shift' };
    const add = { kind: 'change-user' as const, serverId, userName: 'night', before: null, after: settings, secretId };
    expect((await carriedOut(add)).lines[0]?.state).toBe('proved');
    const disable = { ...add, after: { ...settings, flags: ['Disabled' as const] }, secretId: null };
    expect((await carriedOut(disable)).lines[0]).toMatchObject({ state: 'proved', before: 'enabled; “Night shift”' });
    expect((await access()).users?.find(({ userName }) => userName === 'night')?.flags).toEqual(['Disabled']);
    expect((await carriedOut({ ...disable, after: null })).lines[0]?.state).toBe('proved');
    expect((await access()).users?.map(({ userName }) => userName)).not.toContain('night');
  });

  it('says in words what the server refuses, and what would be too short for it', async () => {
    const short = await engineer.refused('sealPassword', { serverId }, { userName: 'night', password: 'short' });
    expect(short).toMatchObject({ status: 400, faults: [{ place: 'password', says: 'This one has 5.' }] });
    const gone = {
      kind: 'change-user' as const,
      serverId,
      userName: 'security',
      before: null,
      after: null,
      secretId: null,
    };
    const [line] = (await carriedOut(gone)).lines;
    expect(line).toMatchObject({ state: 'failed' });
    expect(line?.says).toMatch(/refused RemoveUser: Bad_NotSupported/);
  });
});

describe('an account', () => {
  it('is shown with its links, roles and weaknesses', async () => {
    const { accounts: all, counts } = await accounts();
    expect(counts.read).toBe(1);
    const security = all.find((account) => account.serverId === serverId && account.userName === 'security');
    expect(security).toMatchObject({
      administers: true,
      roles: ['Anonymous', 'AuthenticatedUser', 'Observer', 'SecurityAdmin'],
      password: 'stored',
    });
    expect(security?.signedInBy).toBe('the administration of the server');
    expect(security?.weaknesses.map(({ kind }) => kind)).toContain('same password elsewhere');
    const [first] = all;
    expect(first?.weaknesses.some(({ grade }) => grade !== 'slight')).toBe(true);
  });

  it('has its password changed at the server and in all links at once, and is let in with it', async () => {
    const linkId = 'history--lehr';
    const password = 'a quite new password';
    const { secretId } = await engineer.call('sealPassword', { serverId }, { userName: 'collector', password });
    const order = await carriedOut({ kind: 'change-password', serverId, userName: 'collector', secretId });
    expect(order.lines[0]).toMatchObject({ state: 'proved' });
    expect(order.lines[0]?.says).toMatch(/use the new password now\. The server lets “collector” in with it\.$/);
    expect(order.lines[0]?.undo).toMatch(/can’t be undone from here/);
    expect(JSON.stringify(order)).not.toContain(password);
    expect(await found(engineer, linkId)).not.toBe('Parted');
    const account = (await accounts()).accounts.find(
      (one) => one.serverId === serverId && one.userName === 'collector',
    );
    expect(account?.weaknesses.map(({ kind }) => kind)).not.toContain('same password elsewhere');
  });

  it('is not tried so often that it gets locked, and is tried again when the password is typed again', async () => {
    const linkId = 'maintenance--lehr';
    const refusal = async (): Promise<string> => {
      expect(await found(engineer, linkId)).toBe('Parted');
      const { assessment } = await engineer.call('link', { linkId });
      return allFindings(assessment).find(({ causeId }) => causeId === 'user-refused')?.meaning ?? '';
    };
    const meanings = [await refusal(), await refusal(), await refusal()];
    expect(meanings.map((meaning) => meaning.includes('in a row, and was not tried now'))).toEqual([
      false,
      false,
      true,
    ]);
    const technician = (await accounts()).accounts.find(
      (account) => account.serverId === serverId && account.userName === 'technician',
    );
    expect(technician?.weaknesses[0]).toMatchObject({ kind: 'refused', grade: 'fails' });
    expect(Date.parse(technician?.pausedUntil ?? '')).toBeGreaterThan(Date.now());
    const change = { kind: 'set-password' as const, linkId, userName: 'technician' };
    await engineer.call('mend', { linkId }, { change, password: 'still a wrong one' });
    const last = await until(
      () => engineer.call('link', { linkId }),
      ({ assessment }) => !JSON.stringify(assessment).includes('was not tried now'),
    );
    expect(allFindings(last.assessment).map(({ causeId }) => causeId)).toContain('user-refused');
  });
});

const ruleFor = (criteria: string) => ({
  kind: 'add-role-rule' as const,
  serverId,
  roleId: 'ns=0;i=15680',
  role: 'Operator',
  rule: { about: 'identity' as const, criterion: 'UserName' as const, criteria },
});
const allFindings = ({ steps }: LinkDetail['assessment']) => steps.flatMap(({ findings }) => findings);
const operators = ({ roles }: AccessView): readonly string[] | undefined =>
  roles.find(({ name }) => name === 'Operator')?.rules.map(({ says }) => says);
