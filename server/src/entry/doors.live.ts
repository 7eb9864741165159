import type { BodyOf, DoorTurns, WorkOrder } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { found } from '../testing/found.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('doors');
let engineer: Caller;
let approver: Caller;
let url: string;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  [engineer, approver] = [await signIn('engineer', url, ownPassword), await signIn('approver', url, ownPassword)];
  // The doors of a server are known as soon as one of its links was checked.
  for (const link of ['old-recorder--cullet-crusher', 'history--inspection', 'energy--dust-filter', 'energy--furnace'])
    await found(engineer, link);
});
afterAll(() => own.remove());

const none = { policy: 'None', mode: 'None', token: 'UserName' } as const;
const deprecated = { policy: 'Basic256', mode: 'SignAndEncrypt', token: 'UserName' } as const;
const named = async (find: string) => (await engineer.query('entry', { find })).servers;
const whatIf = (rules: BodyOf<'doorWhatIf'>['rules']): Promise<DoorTurns> => engineer.call('doorWhatIf', {}, { rules });
const orderOnce = (id: string, fits: (order: WorkOrder) => boolean) =>
  until(() => engineer.call('order', { id }), fits);
const on = (serverId: string, door: typeof none | typeof deprecated, to: 'closed' | 'open' = 'closed') => ({
  serverId,
  ...door,
  to,
});

describe('the doors of servers', () => {
  it('are known from checks, with the links behind each', async () => {
    const [crusher] = await named('cullet crusher');
    expect(crusher?.seenAt).not.toBeNull();
    expect(crusher?.doors.find(({ token }) => token === 'UserName')).toMatchObject({
      ...deprecated,
      weaknesses: ['deprecated policy'],
      links: [{ id: 'old-recorder--cullet-crusher' }],
    });
    const unseen = await engineer.query('entry', { only: 'unseen' });
    expect(unseen.servers.every(({ seenAt, doors }) => seenAt === null && doors.length === 0)).toBe(true);
    expect(unseen.fitting).toBe(unseen.counts.unseen);
  });

  it('can be closed where nobody is left, and not where an old client is', async () => {
    const { close, keep, needs } = await engineer.call('entryClosing');
    expect(close).toContainEqual({ serverId: 'inspection-server', server: 'Inspection server', door: none });
    expect(keep.map(({ serverId, links }) => [serverId, links.map(({ id }) => id)])).toContainEqual([
      'cullet-crusher-server',
      ['old-recorder--cullet-crusher'],
    ]);
    expect(needs.map(({ says }) => says)).toContain('Old recorder gets Aes256_Sha256_RsaPss.');
  });

  it('are tried out before they are touched', async () => {
    const idle = await whatIf([on('inspection-server', none)]);
    expect(idle).toMatchObject({ counts: { moves: 0, cutOff: 0, getsIn: 0 }, turns: [] });
    expect(idle.lines).toMatchObject([{ change: { kind: 'close-doors', doors: [none] }, server: 'Inspection server' }]);
    const everywhere = await whatIf([{ serverId: null, policy: 'Basic256', mode: null, token: null, to: 'closed' }]);
    expect(everywhere.turns).toMatchObject([
      { linkId: 'old-recorder--cullet-crusher', turn: 'cut off', before: deprecated },
    ]);
  });

  it('that are not named can’t be opened', async () => {
    const rule = { serverId: null, policy: null, mode: null, token: null, to: 'open' };
    expect(await engineer.refused('doorWhatIf', {}, { rules: [rule] })).toMatchObject({ status: 400 });
  });

  it('are closed by a person, and proved by what the server offers then', async () => {
    const change = { kind: 'close-doors', serverId: 'furnace-server', doors: [none] } as const;
    const line = { change, why: 'A test.', linkIds: ['energy--furnace'] };
    const { id } = await engineer.call('proposeOrder', {}, { title: 'Close a door', lines: [line] });
    await approver.call('approveOrder', { id }, {});
    await engineer.call('carryOutOrder', { id }, {});
    const byHand = await orderOnce(id, ({ lines }) => lines[0]?.state === 'by hand');
    expect(byHand.lines[0]).toMatchObject({
      title: 'Close on Furnace server: no security, user name and password',
      way: 'by hand',
      says: expect.stringContaining('The standard has no call for this.'),
    });
    expect((await engineer.call('lineDoneByHand', { id, position: '1' }, {})).lines[0]?.state).toBe('done');
    await orderOnce(id, ({ state }) => state === 'proved');
    const undone = await engineer.call('undoLine', { id, position: '1' }, {});
    expect(undone).toMatchObject({ state: 'proposed', lines: [{ change: { ...change, kind: 'open-doors' } }] });
  });

  it('are not closed before those that take their place are seen open', async () => {
    const lines = (['close-doors', 'open-doors'] as const).map((kind) => ({
      change: {
        kind,
        serverId: 'cullet-crusher-server',
        doors: [kind === 'open-doors' ? { ...deprecated, policy: 'Basic256Sha256' } : deprecated],
      },
      why: 'A test.',
      linkIds: ['old-recorder--cullet-crusher'],
    }));
    const { id } = await engineer.call('proposeOrder', {}, { title: 'Replace a door', lines });
    await approver.call('approveOrder', { id }, {});
    await engineer.call('carryOutOrder', { id }, {});
    const { lines: held } = await orderOnce(id, ({ lines: [, closing] }) => closing?.says !== null);
    expect(held.map(({ change, state }) => [change.kind, state])).toEqual([
      ['open-doors', 'by hand'],
      ['close-doors', 'waiting'],
    ]);
    expect(held[1]?.says).toContain('It waits for 1 line that opens doors');
    // What the order asked for ends before anything else is looked at: a check that runs meanwhile would be taken for one of after.
    await orderOnce(id, ({ state }) => state !== 'running');
    await until(
      () => engineer.call('linkRow', { linkId: 'old-recorder--cullet-crusher' }),
      ({ checkId }) => checkId === null,
    );
  });
});

describe('the floor of the plant', () => {
  const floorOf = async () => (await engineer.call('entryFloors')).floor;
  const stepOf = async (linkId: string, step: string) =>
    (await engineer.call('link', { linkId })).assessment.steps.find((one) => one.step === step);

  it('parts a link whose best endpoint is below it, before anything is tried with that', async () => {
    const before = await floorOf();
    expect(before.policy).toBe('None');
    await approver.call('putEntryFloor', {}, { ...before, policy: 'Basic256Sha256' });
    expect(await found(engineer, 'old-recorder--cullet-crusher')).toBe('Parted');
    expect((await stepOf('old-recorder--cullet-crusher', 'policy'))?.findings[0]?.causeId).toBe('plant-floor');
    expect((await stepOf('old-recorder--cullet-crusher', 'secure-channel'))?.verdict).toBe('unknown');
    const [crusher] = await named('cullet crusher');
    expect(crusher?.out).toMatchObject([{ id: 'old-recorder--cullet-crusher' }]);
  });

  it('lets it in by an exception, which strains it, and ends with it', async () => {
    const wish = {
      of: 'server',
      subjectId: 'cullet-crusher-server',
      floor: { ...(await floorOf()), policy: 'Basic256' },
      reason: 'The recorder is replaced in spring.',
      until: new Date(Date.now() + 86_400_000).toISOString(),
    } as const;
    const { exception } = await approver.call('giveException', {}, wish);
    expect(exception).toMatchObject({ subject: 'Cullet crusher server', givenBy: 'approver', ended: null });
    expect(await approver.refused('giveException', {}, wish)).toMatchObject({ status: 409 });
    expect(await found(engineer, 'old-recorder--cullet-crusher')).toBe('Strained');
    const causes = (await stepOf('old-recorder--cullet-crusher', 'policy'))?.findings.map(({ causeId }) => causeId);
    expect(causes).toEqual(expect.arrayContaining(['by-exception', 'policy-deprecated']));
    const ended = await approver.call('endException', { id: String(exception?.id) });
    expect(ended.ended).toMatchObject({ by: 'approver' });
    expect(await found(engineer, 'old-recorder--cullet-crusher')).toBe('Parted');
  });

  it('keeps out kinds of users', async () => {
    await approver.call('putEntryFloor', {}, { ...(await floorOf()), policy: 'None', tokens: ['Certificate'] });
    expect(await found(engineer, 'energy--furnace')).toBe('Parted');
    expect((await stepOf('energy--furnace', 'identity'))?.findings[0]?.causeId).toBe('token-floor');
  });

  it('is not set by engineers, nor by what is no floor, and exceptions end', async () => {
    const floor = await floorOf();
    expect(await engineer.refused('putEntryFloor', {}, floor)).toMatchObject({ status: 403 });
    expect(await approver.refused('putEntryFloor', {}, { ...floor, tokens: [] })).toMatchObject({ status: 400 });
    const wish = { of: 'link', subjectId: 'energy--furnace', floor, reason: 'A test of it.' };
    const past = { ...wish, until: new Date(Date.now() - 1000).toISOString() };
    expect(await approver.refused('giveException', {}, past)).toMatchObject({ status: 400 });
    const tomorrow = new Date(Date.now() + 86_400_000).toISOString();
    const unknown = { ...wish, subjectId: 'energy--nowhere', until: tomorrow };
    expect(await approver.refused('giveException', {}, unknown)).toMatchObject({ status: 404 });
    expect(await approver.refused('endException', { id: 'x' })).toMatchObject({ status: 404 });
  });

  it('waits for a second person where the plant wants one', async () => {
    const settings = await approver.call('settings');
    const administrator = await signIn('administrator', url, ownPassword);
    await administrator.call('putSettings', {}, { ...settings, approvedByAnother: true });
    const before = await floorOf();
    const { floor, waitsAs } = await approver.call('putEntryFloor', {}, { ...before, mode: 'Sign' });
    expect(floor).toEqual(before);
    await administrator.call('acceptProposal', { id: waitsAs ?? '' }, {});
    expect((await floorOf()).mode).toBe('Sign');
  });
});
