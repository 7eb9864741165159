import { originColumns } from '@loyal-hinge/contract';
import type { AnswerOf } from '@loyal-hinge/contract';
import { assess, leadingFindings, usualRules } from '@loyal-hinge/core';
import type { Fact, ItemUse, LinkAssessment, LinkInPlant } from '@loyal-hinge/core';
import { wordsFor } from '@loyal-hinge/core/field';
import type { ItemOrigin, ValueForm } from '@loyal-hinge/core/field';
import { FieldDevice } from '@loyal-hinge/field';
import type { DeviceShape } from '@loyal-hinge/field';
import type { KnownOrigin } from '../probe/field/means.js';
import { walkLink } from '../probe/walk-link.js';
import { meansOf, memoryLog, subjectOf } from '../testing/by-hand.js';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant, plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';
import { silenceLibrary } from '../ua/quiet.js';

silenceLibrary();
const taken = plantGiven();
const form: ValueForm = { type: 'float32', order: 'high-first', scale: 1, offset: 0, bits: null };
/** An item that moves at its server, whatever a device of ours says. */
const moving = {
  linkId: 'line-display--furnace',
  need: { path: 'Furnace/Glass level', uses: ['read'] as readonly ItemUse[] },
  staleAfterMs: 60_000,
};
/** One that its server has no value of, since no device answers it. */
const bad = { ...moving, linkId: 'line-display--field-data', need: { ...moving.need, path: 'Stack/Draught' } };
/** One that stays as it was set. */
const held = {
  linkId: 'line-display--lehr',
  need: { path: 'Lehr/Roller speed wanted', uses: ['read', 'write'] as readonly ItemUse[] },
  staleAfterMs: 4000,
};
const address = inPlant('20.99');

describe('a device behind a server', () => {
  const devices: FieldDevice[] = [];
  afterEach(async () => {
    for (const device of devices.splice(0)) await device.stop();
  });

  /** A link of the made-up plant whose item is said to come from a device of ours; what that says is up to the test. */
  async function walk(
    shape: Partial<DeviceShape> | null,
    differs: Partial<KnownOrigin> = {},
    origin: Partial<ItemOrigin> = {},
    { linkId, need, staleAfterMs } = moving,
  ): Promise<LinkAssessment> {
    const device = shape && (await FieldDevice.start(address, 0, { at: () => 0, ...shape }));
    if (device) devices.push(device);
    const stated: ItemOrigin = {
      deviceId: 'panel',
      port: device?.port ?? 9,
      unit: 1,
      table: 'holding',
      address: '40108',
      convention: 'from-1-with-digit',
      form,
      within: null,
      ...origin,
    };
    const machine = {
      id: 'panel',
      zoneId: 'hot-end',
      name: 'Panel',
      description: '',
      hostNames: [],
      addresses: [address],
    };
    const kept = subjectOf(taken, linkId);
    const subject: LinkInPlant = { ...kept, link: { ...kept.link, staleAfterMs, needs: [need] } };
    const origins: readonly KnownOrigin[] = [
      { path: need.path, origin: stated, device: machine, stoppedBy: [], before: null, ...differs },
    ];
    const means = meansOf(taken, subject);
    const log = memoryLog();
    const limits = { ...means.limits, connectMs: 1000, helloMs: 1200 };
    await walkLink(subject, { ...means, limits, origins }, log, new AbortController().signal);
    facts = log.facts;
    return assess(subject, log.facts, usualRules, new Date().toISOString());
  }
  let facts: readonly Fact[] = [];
  /** Registers that hold what the server shows, wherever it is now: 50, and a little more or less. */
  const level = (place: number, lies = form): DeviceShape['at'] => {
    const words = wordsFor(50, lies);
    return (table, at) => (table === 'holding' ? (words[at - place] ?? 7) : null);
  };
  const verdictOf = ({ steps }: LinkAssessment, step: string) => steps.find((one) => one.step === step)?.verdict;

  it('is sound where server and device say the same', async () => {
    const found = await walk({ at: level(107) }, {}, { within: 5 });
    expect(verdictOf(found, 'origin-value')).toBe('holds');
    expect(found.state).toBe('Sound');
    // It was sampled some times, politely, and nothing was written to it.
    expect(devices[0]).toMatchObject({ connections: 1, requests: 5 });
  });

  it.each<[string, string, Partial<DeviceShape> | null, Partial<KnownOrigin>, Partial<ItemOrigin>]>([
    ['is not in the plant', 'device-unknown', {}, { device: null }, {}],
    ['says nothing', 'unit-wrong', { fault: 'mute' }, {}, {}],
    ['has another unit', 'unit-wrong', { units: [3] }, {}, {}],
    ['has another unit behind a gateway', 'unit-wrong', { units: [3], otherUnits: 'exception' }, {}, {}],
    ['speaks another protocol', 'not-modbus', { fault: 'other-protocol' }, {}, {}],
    ['cuts its answers off', 'answer-broken', { fault: 'cut-off' }, {}, {}],
    ['sends too much', 'answer-broken', { fault: 'too-long' }, {}, {}],
    ['sends an octet a second', 'answer-broken', { fault: 'dripping' }, {}, {}],
    ['answers somebody else', 'other-transaction', { fault: 'other-transaction' }, {}, {}],
    ['has no such register', 'register-refused', { at: () => null }, {}, {}],
    ['has the value in the register before', 'register-off-by-one', { at: level(106) }, {}, { within: 5 }],
    [
      'has its words the other way round',
      'words-swapped',
      { at: level(107, { ...form, order: 'low-first' }) },
      {},
      { within: 5 },
    ],
    [
      'has its bytes the other way round',
      'bytes-swapped',
      { at: level(107, { ...form, order: 'high-first-swapped' }) },
      {},
      { within: 5 },
    ],
    ['has another scale', 'scale-wrong', { at: level(107, { ...form, scale: 0.1 }) }, {}, { within: 5 }],
    ['has another value', 'value-apart', { at: () => 12_345 }, {}, { within: 5 }],
  ])('that %s is named: %s', async (_, cause, shape, differs, origin) => {
    const found = await walk(shape, differs, origin);
    expect(found).toMatchObject({ state: 'Parted', leadingCause: cause });
    const [leading] = leadingFindings(found);
    expect(leading?.meaning).toMatch(/\w.*\.$/s);
    expect(facts.filter(({ kind }) => kind === 'check-stopped')).toEqual([]);
  });

  it.each<[string, string, Partial<DeviceShape> | null, Partial<ItemOrigin>]>([
    ['refuses the port', 'device-refused', null, { port: 9 }],
    ['takes no connection', 'device-busy', { mostConnections: 0 }, {}],
  ])('that %s is at fault where its server has no good value, and else only out of our sight', async (...one) => {
    const [, cause, shape, origin] = one;
    expect(await walk(shape, {}, origin, bad)).toMatchObject({ state: 'Parted', leadingCause: cause });
    expect(await walk(shape, {}, origin)).toMatchObject({ state: 'Untried', leadingCause: 'device-unseen' });
  });

  it('that is asked too seldom is watched for as long as the link allows a value to be held', async () => {
    let asked = 0;
    const at: DeviceShape['at'] = (table, place) => {
      if (table !== 'holding' || place !== 107) return 7;
      asked += 1;
      return 10 + asked;
    };
    const origin = { form: { ...form, type: 'uint16' as const }, within: 10_000 };
    const found = await walk({ at }, {}, origin, held);
    expect(found).toMatchObject({ state: 'Strained', leadingCause: 'server-polls-slowly' });
    // A link that allows more than a check lasts is not kept waiting.
    const patient = await walk({ at }, {}, origin, { ...held, staleAfterMs: 60_000 });
    expect(patient.state).toBe('Sound');
    expect(devices.map(({ requests }) => requests)).toEqual([expect.any(Number), 5]);
    expect(devices[0]?.requests).toBeGreaterThan(5);
  });

  it('that breaks off after each answer is dialled again, and read', async () => {
    const found = await walk({ at: level(107), fault: 'resets-after' }, {}, { within: 5 });
    expect(verdictOf(found, 'register')).toBe('holds');
    expect(verdictOf(found, 'origin-value')).toBe('holds');
    expect(devices[0]?.connections).toBeGreaterThan(1);
  });

  it('that has nothing beside the register is asked for that alone', async () => {
    const words = wordsFor(50, form);
    const found = await walk({ at: (_, at) => words[at - 107] ?? null }, {}, { within: 5 });
    expect(verdictOf(found, 'origin-value')).toBe('holds');
  });

  it('that answers with all exceptions in turn is refused by each, and asked no more than needed', async () => {
    const found = await walk({ fault: 'exceptions' });
    expect(found.leadingCause).toBe('register-refused');
    expect(devices[0]?.requests).toBeLessThanOrEqual(2);
  });

  it('outside the declared ranges is not dialled', async () => {
    const machine = {
      id: 'panel',
      zoneId: 'hot-end',
      name: 'Panel',
      description: '',
      hostNames: [],
      addresses: ['10.9.9.9'],
    };
    const found = await walk({}, { device: machine });
    expect(found).toMatchObject({ state: 'Untried', leadingCause: 'device-withheld' });
  });

  it('whose sensor is stuck says so once it has been so for long', async () => {
    const words = wordsFor(50, form);
    const since = new Date(Date.now() - 20 * 60_000).toISOString();
    const found = await walk({ at: level(107) }, { before: { words, since, checks: 5 } }, { within: 5 });
    expect(found).toMatchObject({ state: 'Strained', leadingCause: 'value-stuck' });
    const changed = await walk({ at: level(107) }, { before: { words: [1, 2], since, checks: 5 } }, { within: 5 });
    expect(changed.state).toBe('Sound');
  });
});

describe('origins', () => {
  const own = ownServer('field');
  let engineer: Caller;
  let viewer: Caller;
  let url = '';
  beforeAll(async () => {
    await own.setUp();
    ({ url } = await own.serve());
    [engineer, viewer] = [await signIn('engineer', url, ownPassword), await signIn('viewer', url, ownPassword)];
  });
  afterAll(() => own.remove());

  const serverId = 'furnace-server';
  const origin = (differs: Partial<ItemOrigin> = {}): ItemOrigin => ({
    deviceId: 'burner-panel',
    port: 5020,
    unit: 1,
    table: 'holding',
    address: '40001',
    convention: 'from-1-with-digit',
    form: { ...form, type: 'int16', scale: 0.1 },
    within: null,
    ...differs,
  });
  const checked = async (id: string): Promise<NonNullable<AnswerOf<'link'>['assessment']>> => {
    const before = (await engineer.call('link', { linkId: id })).checks.length;
    await engineer.call('checkLink', { linkId: id });
    const { assessment } = await until(
      () => engineer.call('link', { linkId: id }),
      ({ checks }) => checks.length > before && checks.every(({ endedAt }) => endedAt !== null),
    );
    if (!assessment) throw new Error('not judged');
    return assessment as NonNullable<typeof assessment>;
  };

  it('of the made-up plant lead from a bad value to why', async () => {
    expect((await checked('history--field-data')).state).toBe('Sound');
    const classic = await checked('trend--lehr-data');
    expect(classic.steps.find(({ step }) => step === 'origin-value')?.verdict).toBe('holds');
    const mapped = await checked('energy--field-data');
    expect(mapped.steps.flatMap(({ findings }) => findings.map(({ causeId }) => causeId))).toEqual(
      expect.arrayContaining(['register-off-by-one', 'words-swapped']),
    );
    const silent = (await checked('line-display--field-data')).steps.flatMap(({ findings }) => findings);
    expect(silent.map(({ causeId }) => causeId)).toEqual(
      expect.arrayContaining(['unit-wrong', 'device-unseen', 'device-silent']),
    );
    const byRule = silent.find(({ causeId }) => causeId === 'device-silent');
    expect(byRule?.meaning).toContain('By the rules of Process firewall');
    expect(byRule?.meaning).toContain('until the stack probe is calibrated');
  });

  it('are stated, shown with their device, and removed', async () => {
    const wish = { path: 'Furnace/Gas flow', origin: origin({ form: { ...form, type: 'uint16' } }) };
    expect(await viewer.refused('putOrigin', { serverId }, wish)).toMatchObject({ status: 403 });
    expect(await engineer.call('putOrigin', { serverId }, wish)).toMatchObject({
      device: 'Burner panel',
      sharesWith: 'Burner/Air',
    });
    expect((await viewer.query('origins', { server: serverId })).origins).toMatchObject([
      { path: wish.path, changedBy: 'engineer' },
    ]);
    expect((await viewer.query('origins', { device: 'burner-panel' })).origins).toHaveLength(2);
    await engineer.call('removeOrigins', { serverId }, { paths: [wish.path] });
    expect((await viewer.query('origins', { server: serverId })).origins).toEqual([]);
    const trail = await own.read<{ action: string }>(
      "select action from audit where subject = 'furnace-server' and action like 'origins%' order by 1",
    );
    expect(trail.map(({ action }) => action)).toEqual(['origins removed', 'origins stated']);
  });

  it('that can’t be are refused at their field', async () => {
    const refused = (differs: Partial<ItemOrigin>, path = 'A') =>
      engineer.refused('putOrigin', { serverId }, { path, origin: origin(differs) });
    expect(await refused({ address: '30001' })).toMatchObject({ status: 400, faults: [{ place: 'origin.address' }] });
    expect(await refused({ deviceId: 'nobody' })).toMatchObject({
      faults: [{ place: 'origin.deviceId', says: 'There is no machine “nobody” in the plant.' }],
    });
    expect(await refused({ unit: 300 })).toMatchObject({ faults: [{ place: 'origin.unit' }] });
    expect(await engineer.refused('putOrigin', { serverId: 'nobody' }, { path: 'A', origin: origin() })).toMatchObject({
      status: 404,
    });
  });

  it('come by a pattern, and by CSV in which one line of many is wrong', async () => {
    const pattern = { path: 'Zone {n}/Air', from: 1, to: 40, step: 2, origin: origin() };
    expect(await engineer.call('putOriginPattern', { serverId }, pattern)).toEqual({ kept: 40 });
    expect((await viewer.query('origins', { server: serverId })).origins).toHaveLength(40);
    expect(await engineer.refused('putOriginPattern', { serverId }, { ...pattern, path: 'Zone' })).toMatchObject({
      status: 400,
    });
    const { csv } = await viewer.call('originsAsCsv', { serverId });
    expect(csv.split('\r\n')[0]).toBe(originColumns.join(','));
    const lines = csv.trimEnd().split('\r\n');
    const wrong = [...lines, 'B,nobody,502,1,holding,40001', 'C,burner-panel,502,1,holding,1'].join('\n');
    await engineer.call(
      'removeOrigins',
      { serverId },
      { paths: Array.from({ length: 40 }, (_, index) => `Zone ${index + 1}/Air`) },
    );
    const told = await engineer.call('takeOrigins', { serverId }, { csv: wrong, leaveOutWrong: false });
    expect(told).toMatchObject({
      kept: 0,
      faults: [{ line: 42, says: expect.stringContaining('nobody') as string }, { line: 43 }],
    });
    expect((await viewer.query('origins', { server: serverId })).origins).toEqual([]);
    expect(await engineer.call('takeOrigins', { serverId }, { csv: wrong, leaveOutWrong: true })).toMatchObject({
      kept: 40,
    });
  });

  it('are found by watching value and registers side by side', async () => {
    const linkId = 'energy--field-data';
    const wish = {
      path: 'Lehr drive/Speed',
      deviceId: 'lehr-drive',
      port: 5020,
      unit: 1,
      table: 'holding',
      first: 4,
      count: 12,
      samples: 24,
      everyMs: 500,
    } as const;
    const ended = (id: string) =>
      until(
        () => viewer.call('registerSearch', { searchId: id }),
        ({ state }) => state !== 'running',
      );
    expect(await viewer.refused('searchRegister', { linkId }, wish)).toMatchObject({ status: 403 });
    expect(await engineer.refused('searchRegister', { linkId }, { ...wish, deviceId: 'nobody' })).toMatchObject({
      status: 400,
    });
    expect(await engineer.refused('searchRegister', { linkId }, { ...wish, count: 65_536 })).toMatchObject({
      status: 400,
      faults: [{ place: 'count' }],
    });
    const { id } = await engineer.call('searchRegister', { linkId }, wish);
    expect(await engineer.refused('searchRegister', { linkId }, wish)).toMatchObject({ status: 409 });
    const told = await ended(id);
    expect(told).toMatchObject({ state: 'done', taken: 24, device: 'Lehr drive' });
    // The server reads the register beside the one that is meant.
    expect(told.found[0]).toMatchObject({
      place: 11,
      address: '40012',
      form: { scale: 0.1, offset: 0 },
      sureness: 'proved',
    });
    expect(told.found[0]?.series).toHaveLength(told.values.length);
    expect((await viewer.call('registerSearches', { linkId })).searches[0]?.id).toBe(id);

    const silent = await engineer.call('searchRegister', { linkId }, { ...wish, deviceId: 'burner-panel' });
    expect(await ended(silent.id)).toMatchObject({
      state: 'stopped',
      says: 'The device did not answer in time. Is the unit right?',
    });
    const ending = await engineer.call('searchRegister', { linkId }, { ...wish, samples: 600 });
    await engineer.call('stopRegisterSearch', { searchId: ending.id });
    expect((await ended(ending.id)).state).toBe('stopped');
  });

  it('lead to a device’s page: what answers, which items come from it, and its registers now', async () => {
    await checked('line-display--field-data');
    expect((await viewer.call('devices')).devices).toContainEqual({
      id: 'burner-panel',
      name: 'Burner panel',
      zone: 'Hot End',
      items: expect.any(Number) as number,
    });
    const told = await viewer.call('device', { deviceId: 'burner-panel' });
    expect(told).toMatchObject({
      name: 'Burner panel',
      ports: [{ port: 5020, outcome: 'open', units: [{ unit: 1, answers: false }] }],
    });
    expect(told.items.find(({ path }) => path === 'Burner/Air')).toMatchObject({
      server: 'Field data server',
      linkId: 'line-display--field-data',
    });
    expect(
      await viewer.refused('askUnits', { deviceId: 'burner-panel' }, { port: 5020, from: 1, to: 4 }),
    ).toMatchObject({ status: 403 });
    expect(
      await engineer.refused('askUnits', { deviceId: 'burner-panel' }, { port: 5020, from: 0, to: 200 }),
    ).toMatchObject({ status: 400 });
    expect(await engineer.call('askUnits', { deviceId: 'burner-panel' }, { port: 5020, from: 1, to: 4 })).toMatchObject(
      {
        answering: [3],
        says: 'Unit 3 of Burner panel answers.',
      },
    );
    const wish = { port: 5020, unit: 3, table: 'holding', first: 0, count: 3 } as const;
    const reading = await engineer.call('readDevice', { deviceId: 'burner-panel' }, wish);
    expect(reading.places.map((place) => place !== null)).toEqual([true, false, false]);
    expect(reading.says).toContain('Burner panel has 1 of 3 places.');
    expect(await engineer.refused('readDevice', { deviceId: 'burner-panel' }, { ...wish, port: 9 })).toMatchObject({
      status: 409,
    });
    expect(await engineer.refused('readDevice', { deviceId: 'nobody' }, wish)).toMatchObject({ status: 404 });
    expect(
      (await own.read<{ action: string }>("select action from audit where subject = 'burner-panel'")).length,
    ).toBeGreaterThanOrEqual(2);
  });

  it('that a server reads otherwise become a work order for a hand, proved by a check in which both agree', async () => {
    const linkId = 'energy--field-data';
    const path = 'Lehr drive/Speed';
    const approver = await signIn('approver', url, ownPassword);
    const order = (id: string) => engineer.call('order', { id });
    await checked(linkId);
    const row = (await engineer.call('link', { linkId })).behind.find((one) => one.path === path);
    if (!row?.mapping || !row.origin) throw new Error('nothing was found to set');
    const { mapping, origin } = row;
    const [right, wrong] = [40_011, 40_012].map(
      (address) => `unit 1, holding register ${address}, 16-bit integer × 0.1`,
    );
    expect(mapping).toEqual({
      kind: 'set-mapping',
      serverId: 'field-data-server',
      path,
      before: wrong,
      after: right,
    });
    const lines = [{ change: mapping, why: 'The server reads the register beside it.', linkIds: [linkId] }];
    const { id } = await engineer.call('proposeOrder', {}, { title: 'Set the register', lines });
    await approver.call('approveOrder', { id }, {});
    await engineer.call('carryOutOrder', { id }, {});
    const [byHand] = (
      await until(
        () => order(id),
        ({ lines: [line] }) => line?.state === 'by hand',
      )
    ).lines;
    expect(byHand).toMatchObject({ target: 'Field data server', before: wrong, after: right, way: 'by hand' });
    const marked = Date.now();
    await engineer.call('lineDoneByHand', { id, position: '1' }, {});
    // It asks for a check by itself. Nobody has set anything: server and device still differ.
    await until(
      () => engineer.call('link', { linkId }),
      ({ checks }) =>
        checks.every(({ endedAt }) => endedAt !== null) &&
        checks.some(({ endedAt }) => Date.parse(endedAt ?? '') > marked),
    );
    expect((await order(id)).lines[0]?.state).toBe('done');
    await engineer.call(
      'putOrigin',
      { serverId: 'field-data-server' },
      { path, origin: { ...origin, address: '40012' } },
    );
    await checked(linkId);
    await until(
      () => order(id),
      ({ state }) => state === 'proved',
    );
  });
});
