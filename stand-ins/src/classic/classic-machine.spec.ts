import { ComClient, DataAccessServer, categories, opcIids, variantText, walkClassic } from '@loyal-hinge/classic';
import type { ClassicStep, ClassicWalk, HeldServer, Level, Observation, ReadItem } from '@loyal-hinge/classic';
import { wordsFor } from '@loyal-hinge/core/field';
import type { ValueForm } from '@loyal-hinge/core/field';
import { FieldDevice } from '@loyal-hinge/field';
import { ClassicMachine } from './classic-machine.js';
import type { ClassicMachineRecord, ClassicProgram } from './classic-machine.js';
import { EnforcedSettings } from './enforced-settings.js';
import { lehrItems } from './lehr-items.js';
import { settingsText, signedInAccess, signedInLaunch } from './settings-text.js';
import type { ClassicSettings } from './settings-text.js';

const clsid = '5d8f0b52-3c1e-4f6a-9a70-2b6c1de80a11';
const progId = 'Marrowby.LehrData.1';
/** Longer than the busiest machine keeps a test waiting; no test here ends by it. */
const patienceMs = 60_000;
const machineSid = 'S-1-5-21-41-41-41';
const account = { user: 'opc-reader', domain: '', password: 'made up for this test' };
const nobody = 'O:BAG:BAD:(A;;CCDCLCSWRP;;;SY)';

const started: ClassicMachine[] = [];
afterEach(() => Promise.all(started.splice(0).map((machine) => machine.stop())));

interface Broken {
  readonly settings?: Partial<ClassicSettings>;
  readonly application?: Partial<ClassicSettings['applications'][number]>;
  readonly program?: Partial<ClassicProgram>;
  readonly machine?: Partial<ClassicMachineRecord>;
}

async function machineWith({ settings, application, program, machine }: Broken = {}): Promise<ClassicMachine> {
  const lehr = {
    appId: '5d8f0b52-3c1e-4f6a-9a70-2b6c1de80a10',
    name: 'Lehr data',
    clsid,
    progId,
    launch: signedInLaunch,
    access: signedInAccess,
  };
  const text = settingsText({ ...settings, applications: [{ ...lehr, ...application }] });
  const one = await ClassicMachine.start({
    name: 'LEHR-DATA',
    address: '127.0.0.1',
    mapperPort: 0,
    hosts: ['127.0.0.1'],
    accounts: [{ ...account, rid: 1001, groups: [] }],
    machineSid,
    settings: () => EnforcedSettings.of([text]),
    programs: [
      {
        clsid,
        vendor: 'Marrowby Glass',
        version: { major: 1, minor: 2, build: 3 },
        items: lehrItems,
        hasItemIo: true,
        runsAs: account,
        ...program,
      },
    ],
    ...machine,
  });
  started.push(one);
  return one;
}

const walkTo = (machine: ClassicMachine, more: Partial<ClassicWalk> = {}): ClassicWalk => ({
  host: '127.0.0.1',
  mapperPort: machine.mapperPort,
  identity: { account, level: 'integrity', workstation: 'CONTROL-1' },
  server: { progId },
  needs: { items: ['Lehr.Zone1.Temperature'], browse: true, read: true, watch: { updateRateMs: 100 } },
  timeoutMs: patienceMs,
  resolve: (host) => Promise.resolve(host === '127.0.0.1' ? [host] : []),
  mayDial: () => true,
  ...more,
});
const as = (level: Level) => ({ identity: { account, level, workstation: 'CONTROL-1' } });

type Seen = { readonly [Step in ClassicStep]?: Extract<Observation, { readonly step: Step }> };
async function walked(walk: ClassicWalk): Promise<Seen> {
  const seen: Record<string, Observation> = {};
  await walkClassic(walk, (observation) => (seen[observation.step] = observation));
  return seen as Seen;
}
const last = (seen: Seen): string | undefined => Object.keys(seen).at(-1);
const denied = { by: 'fault', code: 5 };

describe('an item that a classic server reads of a device', () => {
  const itemId = 'Lehr.Belt.Speed';
  const form: ValueForm = { type: 'uint16', order: 'high-first', scale: 0.001, offset: 0, bits: null };
  let speed = 4.2;

  /** A walk that reads it twice, with what comes of it. */
  async function readTwice(): Promise<readonly (readonly ReadItem[])[]> {
    const device = await FieldDevice.start('127.0.0.1', 0, {
      at: (table, place) => (table === 'holding' && place === 20 ? (wordsFor(speed, form)[0] ?? null) : null),
    });
    try {
      const polled = { deviceId: 'drive', address: '127.0.0.1', port: device.port, unit: 1, place: 20, form };
      const items = lehrItems.map((item) => (item.itemId === itemId ? { ...item, polled } : item));
      const machine = await machineWith({ program: { items } });
      const read: (readonly ReadItem[])[] = [];
      const needs = { items: [itemId], browse: false, read: true, watch: null };
      await walked(
        walkTo(machine, {
          needs,
          beside: async (readAgain) => {
            read.push(await readAgain());
            speed = 4.5;
            const until = device.requests + 2;
            while (device.requests < until) await new Promise((resolve) => setTimeout(resolve, 20));
            read.push(await readAgain());
          },
        }),
      );
      expect(machine.held).toEqual({ servers: 0, groups: 0 });
      return read;
    } finally {
      await device.stop();
    }
  }

  it('has the device’s value from the first call on, and follows it while a walk holds the server', async () => {
    const values = (await readTwice()).map(([item]) => item?.value);
    expect(values.map((value) => value && 'value' in value && Number(value.value).toFixed(3))).toEqual([
      '4.200',
      '4.500',
    ]);
  });

  it('is bad while the device does not answer', async () => {
    const polled = { deviceId: 'drive', address: '127.0.0.1', port: 9, unit: 1, place: 20, form };
    const items = lehrItems.map((item) => (item.itemId === itemId ? { ...item, polled } : item));
    const needs = { items: [itemId, 'Lehr.Belt.IsRunning'], browse: false, read: true, watch: null };
    const seen = await walked(walkTo(await machineWith({ program: { items } }), { needs }));
    expect(seen.read?.items.map(({ quality }) => quality)).toEqual([0x18, 0xc0]);
  });
});

describe('a walk to a classic server', () => {
  it('comes through all steps where everything is in order, and leaves nothing behind', async () => {
    const machine = await machineWith();
    const seen = await walked(walkTo(machine));
    expect(Object.keys(seen)).toEqual([
      'name',
      'reach',
      'mapper',
      'bindings',
      'sign-in',
      'class',
      'activation',
      'object-port',
      'access',
      'browse',
      'read',
      'watch',
    ]);
    expect(seen['sign-in']).toMatchObject({
      user: 'opc-reader',
      isProven: true,
      problem: null,
      target: { computer: 'LEHR-DATA' },
    });
    expect(seen.class).toMatchObject({ clsid, progId });
    expect(seen.access?.status).toMatchObject({ vendor: 'Marrowby Glass', version: '1.2.3', state: 'running' });
    expect(seen.browse).toMatchObject({ nameSpace: 'hierarchical', count: lehrItems.length, missing: [] });
    expect(seen.read?.items).toMatchObject([{ error: 0, quality: 0xc0, accessRights: 1, value: { type: 'r8' } }]);
    expect(seen.watch).toMatchObject({ revisedMs: 100, problem: null, strangers: [] });
    expect(seen.watch?.calls[0]).toMatchObject({
      from: '127.0.0.1',
      account: 'opc-reader',
      level: 'integrity',
      items: 1,
    });
    expect(seen.watch?.calls.length).toBeGreaterThanOrEqual(2);
    expect(machine.held).toEqual({ servers: 0, groups: 0 });
  });

  it.each<Level>(['connect', 'packet', 'privacy'])('comes through at level %s', async (level) => {
    const seen = await walked(walkTo(await machineWith(), { ...as(level), server: { clsid } }));
    expect(seen.watch?.problem).toBeNull();
    expect(seen['sign-in']).toMatchObject({ level, isProven: level !== 'connect' });
  });

  it.each<[string, Broken, Partial<ClassicWalk>, ClassicStep, object]>([
    [
      'the password is another one',
      {},
      { identity: { account: { ...account, password: 'no' }, level: 'integrity', workstation: 'C' } },
      'sign-in',
      { problem: denied },
    ],
    ['the clocks are hours apart', { machine: { clockMs: 3 * 3_600_000 } }, {}, 'sign-in', { problem: denied }],
    [
      'nobody goes by the name',
      {},
      { server: { progId: 'Marrowby.LehrDatta.1' } },
      'class',
      { problem: { by: 'method', code: 0x800401f3 }, others: [{ progId }] },
    ],
    [
      'the class is not registered',
      {},
      { server: { clsid: clsid.replace('11', '77') } },
      'activation',
      { problem: { by: 'method', code: 0x80040154 } },
    ],
    ['the account may not launch it', { application: { launch: nobody } }, {}, 'activation', { problem: denied }],
    [
      'the machine’s limit overrules the application',
      { settings: { launchRestriction: nobody } },
      { server: { clsid } },
      'activation',
      { problem: denied },
    ],
    [
      'the machine is hardened against the level',
      { settings: { isHardened: true } },
      { ...as('connect'), server: { clsid } },
      'activation',
      { problem: denied },
    ],
    [
      'everybody is a guest',
      { settings: { isGuestOnly: true } },
      { server: { clsid } },
      'activation',
      { problem: denied },
    ],
    ['DCOM is off', { settings: { isOn: false } }, { server: { clsid } }, 'activation', { problem: denied }],
    [
      'it does not start',
      { program: { startFailure: 0x8000401a } },
      {},
      'activation',
      { problem: { by: 'method', code: 0x8000401a } },
    ],
    [
      'its object port is blocked',
      { program: { blockedPort: 1 } },
      {},
      'object-port',
      { places: [{ host: '127.0.0.1', port: 1, outcome: 'refused' }] },
    ],
    ['the account may not call it', { application: { access: nobody } }, {}, 'access', { problem: denied }],
    ['it wants a higher level', { application: { level: 'packet privacy' } }, {}, 'access', { problem: denied }],
    [
      'what may be called by default is behind it',
      { settings: { defaultAccess: nobody }, application: { access: '' } },
      {},
      'access',
      { problem: denied },
    ],
  ])('ends where %s', async (_case, { application, ...broken }, more, step, sight) => {
    const { access, ...rest } = application ?? {};
    const asked = access === '' ? { ...rest, access: undefined } : application;
    const seen = await walked(
      walkTo(await machineWith({ ...broken, ...(asked ? { application: asked as object } : {}) }), more),
    );
    expect(last(seen)).toBe(step);
    expect(seen[step]).toMatchObject(sight);
  });

  it('tells of each item by itself', async () => {
    const items = ['Lehr.Belt.Plate', 'Lehr.Exhaust.Pressure', 'Lehr.Recipe.Name'];
    const seen = await walked(walkTo(await machineWith(), { needs: { items, browse: true, read: true, watch: null } }));
    expect(seen.browse).toMatchObject({ missing: ['Lehr.Belt.Plate'] });
    expect(seen.browse?.some).toContain('Lehr.Belt.Plates');
    expect(seen.read?.items).toMatchObject([
      { itemId: 'Lehr.Belt.Plate', error: 0xc0040007, value: null },
      { itemId: 'Lehr.Exhaust.Pressure', error: 0, quality: 0x10 },
      { itemId: 'Lehr.Recipe.Name', error: 0, accessRights: 3, value: { type: 'text', value: 'Float 4 mm' } },
    ]);
  });

  it('writes what it is asked to with the value that it has, and nothing else', async () => {
    const items = ['Lehr.Zone1.SetPoint', 'Lehr.Zone1.Temperature', 'Lehr.Recipe.Name'];
    const needs = { items, browse: false, read: true, watch: null, writes: items.slice(0, 2) };
    const seen = await walked(walkTo(await machineWith(), { needs }));
    expect(seen.write).toMatchObject({
      problem: null,
      items: [
        { itemId: 'Lehr.Zone1.SetPoint', outcome: 'same value', before: { type: 'r4', value: 515 } },
        { itemId: 'Lehr.Zone1.Temperature', outcome: 'refused', error: 0xc0040006 },
      ],
    });
    expect((await walked(walkTo(await machineWith(), { needs: { ...needs, writes: [] } }))).write).toBeUndefined();
  });

  it('tells where reading works and the way back does not', async () => {
    const back = { hosts: ['no-such-machine.marrowby.example'], ports: { resolver: 0, objects: 0 } };
    const seen = await walked(walkTo(await machineWith(), { back }));
    expect(seen.read?.problem).toBeNull();
    expect(seen.watch).toMatchObject({ problem: { by: 'method', code: 0x80040202 }, calls: [] });
  });

  it('tells of a server whose own account is not known to the client', async () => {
    const service = { user: 'opc-service', domain: '', password: 'another made up one' };
    const seen = await walked(walkTo(await machineWith({ program: { runsAs: service } })));
    expect(seen.watch).toMatchObject({ calls: [], unproven: [{ from: '127.0.0.1', account: 'opc-service' }] });
  });

  it('tells of a server that calls back as nobody, and of a rate that was changed', async () => {
    const program: ClassicProgram = {
      clsid,
      vendor: '',
      version: { major: 1, minor: 0, build: 0 },
      items: lehrItems,
      leastUpdateRateMs: 300,
    };
    const seen = await walked(walkTo(await machineWith({ machine: { programs: [program] } }), {}));
    expect(seen.watch).toMatchObject({ wantedMs: 100, revisedMs: 300 });
    expect(seen.watch?.calls[0]).toMatchObject({ account: null, level: 'none' });
  });

  it('tries a password once where it is wrong', async () => {
    const machine = await machineWith();
    await walked(
      walkTo(machine, { identity: { account: { ...account, password: 'no' }, level: 'privacy', workstation: 'C' } }),
    );
    expect(machine.signIns).toEqual(['opc-reader']);
  });

  it('gives up when somebody says so, and gives back what it holds', async () => {
    const machine = await machineWith();
    const abort = new AbortController();
    const observations: Observation[] = [];
    await walkClassic(walkTo(machine, { signal: abort.signal }), (observation) => {
      observations.push(observation);
      if (observation.step === 'read') abort.abort();
    });
    expect(observations.at(-1)).toMatchObject({ step: 'watch', problem: { by: 'way', kind: 'cancelled' } });
    expect(machine.held).toEqual({ servers: 0, groups: 0 });
  });
});

describe('a classic server', () => {
  const client = (machine: ClassicMachine, pingPeriodMs?: number) =>
    new ComClient({
      host: '127.0.0.1',
      mapperPort: machine.mapperPort,
      timeoutMs: patienceMs,
      identity: { account, level: 'integrity', workstation: 'CONTROL-1' },
      ...(pingPeriodMs === undefined ? {} : { pingPeriodMs }),
    });
  async function serverOf(com: ComClient): Promise<DataAccessServer> {
    const made = await com.make(clsid, [opcIids.server]);
    return DataAccessServer.of(com, await com.objectOf(made, opcIids.server));
  }

  it('writes what may be written, and reads it back', async () => {
    const com = client(await machineWith());
    const server = await serverOf(com);
    const group = await server.addGroup('', 1000, true);
    const added = await group.add(
      [
        { itemId: 'Lehr.Zone1.SetPoint', clientHandle: 1 },
        { itemId: 'Lehr.Zone1.Temperature', clientHandle: 2 },
      ],
      true,
    );
    const handles = added.flatMap((item) => (item.error === null ? item.serverHandle : []));
    expect(
      await group.write(handles, [
        { type: 'r4', value: 512.5 },
        { type: 'r8', value: 1 },
      ]),
    ).toEqual([0, 0xc0040006]);
    expect(await group.write(handles.slice(0, 1), [{ type: 'text', value: 'hot' }])).toEqual([0xc0040004]);
    expect(await group.read(handles.slice(0, 1), 'device')).toMatchObject([{ value: { type: 'r4', value: 512.5 } }]);
    expect(await server.readItems(['Lehr.Zone1.SetPoint', 'nothing'], 0)).toMatchObject([
      { error: 0, value: { value: 512.5 } },
      { error: 0xc0040007 },
    ]);
    expect(await server.errorText(0xc0040007)).toBe('there is no such item');
    await com.close();
  });

  it('is browsed branch by branch', async () => {
    const com = client(await machineWith());
    const server = await serverOf(com);
    expect(await server.nameSpace()).toBe('hierarchical');
    expect((await server.browse([])).branches).toEqual(['Lehr']);
    expect((await server.browse(['Lehr'])).branches).toContain('Zone8');
    expect((await server.browse(['Lehr', 'Zone8'])).items).toEqual([
      { name: 'Temperature', itemId: 'Lehr.Zone8.Temperature' },
      { name: 'SetPoint', itemId: 'Lehr.Zone8.SetPoint' },
    ]);
    await expect(server.browse(['Furnace'])).rejects.toMatchObject({ hresult: 0x80070057 });
    await com.close();
  });

  it('takes a thousand items with errors of their own', async () => {
    const com = client(await machineWith());
    const group = await (await serverOf(com)).addGroup('', 1000, true);
    const items = Array.from({ length: 1000 }, (_, index) => ({
      itemId: index % 2 === 0 ? 'Lehr.Belt.Speed' : `nothing ${index}`,
      clientHandle: index,
    }));
    const added = await group.add(items, true);
    expect(added.filter(({ error }) => error === null)).toHaveLength(500);
    expect(added[1]).toEqual({ itemId: 'nothing 1', error: 0xc0040007 });
    await com.close();
  });

  it('lets go what a client holds that is gone without a word', async () => {
    // A busy machine may be late by more than a short period; the client’s pings never come.
    const machine = await machineWith({ machine: { pingPeriodMs: 500 } });
    const com = client(machine);
    await (await serverOf(com)).addGroup('', 1000, true);
    expect(machine.held).toEqual({ servers: 1, groups: 1 });
    await eventually(() => machine.held.servers === 0);
    expect(machine.held).toEqual({ servers: 0, groups: 0 });
    await com.close();
  });

  it('keeps what a client says that it holds', async () => {
    // A machine that is busy may be late by more than a short period.
    const machine = await machineWith({ machine: { pingPeriodMs: 500 } });
    const com = client(machine, 50);
    const server = await serverOf(com);
    await server.addGroup('', 1000, true);
    await new Promise((resolve) => setTimeout(resolve, 2_500));
    expect(machine.held).toEqual({ servers: 1, groups: 1 });
    expect((await server.status()).groupCount).toBe(1);
    await com.close();
    await eventually(() => machine.held.servers === 0);
  });

  it('is lost to its clients when it is started anew', async () => {
    const machine = await machineWith();
    const com = client(machine);
    const server = await serverOf(com);
    await machine.restart(clsid);
    await expect(server.status()).rejects.toMatchObject({ name: 'RpcProblem' });
    await com.close();
  });
});

async function eventually(isSo: () => boolean): Promise<void> {
  for (const end = Date.now() + patienceMs; Date.now() < end && !isSo();)
    await new Promise((resolve) => setTimeout(resolve, 20));
  expect(isSo()).toBe(true);
}

describe('a needed item that is a pattern', () => {
  it('stands for the items that fit it, unless one has that very name', async () => {
    const needs = {
      items: ['Zone temperatures', 'Lehr.Belt.Speed', 'Nothing of that kind'],
      patterns: [
        { text: 'Zone temperatures', fits: (itemId: string) => itemId.endsWith('.Temperature') },
        { text: 'Lehr.Belt.Speed', fits: () => true },
        { text: 'Nothing of that kind', fits: () => false },
      ],
      browse: true,
      read: true,
      watch: null,
    };
    const seen = await walked(walkTo(await machineWith(), { needs }));
    expect(seen.browse).toMatchObject({
      missing: ['Nothing of that kind'],
      patterns: [{ text: 'Zone temperatures', isWhole: true }],
    });
    expect(seen.browse?.patterns[0]?.items).toHaveLength(8);
    expect(seen.read?.items.map(({ itemId }) => itemId)).toEqual([
      ...[1, 2, 3, 4, 5, 6, 7, 8].map((zone) => `Lehr.Zone${zone}.Temperature`),
      'Lehr.Belt.Speed',
      'Nothing of that kind',
    ]);
  });
});

describe('a server that is held', () => {
  it('tells changes of a group, properties of items, and that it goes away; nothing is left behind', async () => {
    const machine = await machineWith();
    const changes: number[] = [];
    let properties: readonly string[] = [];
    const use = async (held: HeldServer): Promise<void> => {
      const group = await held.server.addGroup('', 100, true);
      await group.add([{ itemId: 'Lehr.Zone1.Temperature', clientHandle: 7 }], true);
      const stop = await held.watch(group, ({ clientHandles }) => changes.push(...clientHandles));
      while (changes.length < 2) await new Promise((resolve) => setTimeout(resolve, 20));
      await stop();
      const told = await held.server.properties('Lehr.Zone1.SetPoint');
      properties = told.map(({ id, value }) => `${id} ${variantText(value)}`);
      await expect(held.server.properties('Lehr.Nowhere')).rejects.toMatchObject({ hresult: 0xc0040007 });
      await group.release();
      expect(machine.held).toEqual({ servers: 1, groups: 0 });
      const over = machine.stop();
      await held.ended;
      await over;
    };
    const seen = await walked(walkTo(machine, { use }));
    expect(last(seen)).toBe('access');
    expect(new Set(changes)).toEqual(new Set([7]));
    expect(properties).toEqual(expect.arrayContaining(['1 4', '5 3', '100 °C', '102 650', '103 20']));
    expect(machine.held.groups).toBe(0);
  });

  it('refuses a value outside its range', async () => {
    const codes: number[] = [];
    const use = async ({ server }: HeldServer): Promise<void> => {
      const group = await server.addGroup('', 100, false);
      const [item] = await group.add([{ itemId: 'Lehr.Zone1.SetPoint', clientHandle: 1 }], true);
      if (item?.error !== null) throw new Error('the item was not added');
      for (const value of [700, 600]) codes.push(...(await group.write([item.serverHandle], [{ type: 'r4', value }])));
    };
    await walked(walkTo(await machineWith(), { use }));
    expect(codes).toEqual([0xc004000b, 0]);
  });
});

describe('a machine’s list of servers', () => {
  it('is read whole, with what each offers, and with what was left of servers that are gone', async () => {
    const alsoListed = [
      { clsid: '5d8f0b52-3c1e-4f6a-9a70-2b6c1de80a99', progId: 'Old.1', name: 'Old', categories: [categories['A&E']] },
    ];
    const seen = await walked(walkTo(await machineWith({ machine: { alsoListed } }), { server: 'list' }));
    expect(last(seen)).toBe('class');
    expect(seen.class?.others.map((one) => [one.progId, one.categories])).toEqual([
      [progId, ['DA 2', 'DA 3']],
      ['Old.1', ['A&E']],
    ]);
  });
});
