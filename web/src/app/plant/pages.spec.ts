import { discovery, plant, viewOf } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';

const viewed = ({ part }: Readonly<Record<string, string>>) => viewOf(plant(), part as 'machines' | 'links');

describe('the page of the plant', () => {
  it('shows its parts as tables, each with its own address', async () => {
    const site = await Site.open('/plant', { plantView: viewed });
    expect(site.headline).toBe('Works: 2 machines in 2 zones, 1 link');
    expect(site.rows().map(([machine, zone]) => [machine, zone])).toEqual([
      ['Furnace control', 'Hot End'],
      ['Wall of screens', 'Control Room'],
    ]);
    await site.press(/^Links/);
    expect(site.url).toBe('/plant?part=links');
    expect(site.rows()[0]).toEqual(expect.arrayContaining(['Display to Furnace', 'as display', 'Crown/Temperature']));
  });

  it('adds a machine, and keeps what was typed where that is refused', async () => {
    const site = await Site.open('/plant', { plantView: viewed, putMachine: refused('There is such a machine.') });
    await site.press(/Add a machine/);
    await site.fill(/^Id/, 'spare');
    await site.fill(/^Name/, 'Spare machine');
    await site.fill(/^Zone/, 'Hot End');
    await site.fill(/^Addresses/, '127.41.10.99');
    await site.press(/^Save$/);
    expect(site.asked('putMachine')).toMatchObject([
      { id: 'spare', name: 'Spare machine', addresses: ['127.41.10.99'] },
    ]);
    expect(site.text).toContain('There is such a machine.');
    expect(site.filled(/^Id/)).toBe('spare');
  });

  it('asks before it removes', async () => {
    const site = await Site.open('/plant', { plantView: viewed, removeMachine: { done: true } });
    await site.press(/^Remove$/);
    expect(site.asked('removeMachine')).toEqual([]);
    expect(site.text).toContain('Nothing is changed on a machine.');
    site
      .all('[role=alertdialog] button')
      .find(({ textContent }) => textContent?.trim() === 'Remove')
      ?.click();
    await site.settle();
    expect(site.calls.find(({ name }) => name === 'removeMachine')?.params).toEqual({ id: 'furnace' });
  });

  it('of a large plant shows some rows at a time, and has the words looked for by the server', async () => {
    const asked: Readonly<Record<string, string>>[] = [];
    const site = await Site.open('/plant', {
      plantView: (params) => {
        asked.push(params);
        return viewOf(plant(), 'machines', { from: Number(params['from'] ?? 0), fitting: params['find'] ? 1 : 300 });
      },
    });
    await site.settle();
    expect(site.text).toContain('1 to 200 of 300');
    site.all('.p-paginator-next')[0]?.click();
    await site.settle();
    expect(site.url).toBe('/plant?from=200');
    expect(asked.at(-1)).toMatchObject({ from: '200' });
    await site.fill(/Words to look for/, 'furnace');
    expect(asked.at(-1)).toMatchObject({ part: 'machines', find: 'furnace', from: '0' });
    expect(site.url).toBe('/plant?find=furnace');
  });

  it('has the rows sorted by the server, as the address says', async () => {
    const asked: unknown[] = [];
    const site = await Site.open('/plant', {
      plantView: ({ by, descending, ...params }) => {
        asked.push([by, descending]);
        return viewed(params);
      },
    });
    await site.settle();
    await site.sortBy(/^Addresses/);
    await site.sortBy(/^Addresses/);
    expect(asked).toEqual([
      [undefined, undefined],
      ['addresses', undefined],
      ['addresses', 'yes'],
    ]);
    expect(site.url).toBe('/plant?sort=-addresses');
  });

  it('lets one of many be looked for when a row is put on it', async () => {
    const port = 4840;
    const finds: (string | undefined)[] = [];
    const site = await Site.open('/plant?part=links', {
      plantView: viewed,
      plantChoices: ({ of, find }) => {
        if (of === 'servers') finds.push(find);
        const choices = [{ id: `${of}-${find ?? 'first'}`, name: `${of} ${find ?? 'first'}`, port }];
        return { fitting: find ? 1 : 900, choices };
      },
    });
    await site.settle();
    await site.press(/Add a link/);
    expect(site.filled(/^Server/)).toBe('which server?');
    await site.lookFor(/^Server/, 'lehr');
    expect(finds).toEqual([undefined, 'lehr']);
    await site.pick(/^servers lehr$/);
    expect(site.filled(/^Server/)).toBe('servers lehr');
  });

  it('says before an import what it will replace', async () => {
    const site = await Site.open('/plant', { plantView: viewed, importMachines: { machines: 2 } });
    await site.choose(/Import/, 'machines.csv', 'id,zone,name');
    expect(site.text).toContain('The machines of machines.csv are added');
    await site.press(/^Import$/);
    expect(site.asked('importMachines')).toEqual([{ csv: 'id,zone,name' }]);
  });

  it('lets a viewer change nothing', async () => {
    const site = await Site.open('/plant', { plantView: viewed }, 'viewer');
    expect(site.button(/^Change$/).disabled).toBe(true);
    expect(site.button(/Add a machine/).disabled).toBe(true);
  });
});

describe('the page that finds servers', () => {
  it('proposes what is new, and adds it only when told to', async () => {
    const site = await Site.open('/plant/discovery', {
      plantView: viewed,
      discovery: discovery(),
      putMachine: (params) => ({ ...plant().machines[0], id: params['id'] ?? '' }) as never,
      putApplication: refused('It is there already.'),
    });
    expect(site.headline).toBe('1 server found: 1 not in the plant.');
    expect(site.text).toContain('silent.works.example does not answer.');
    expect(site.asked('putMachine')).toEqual([]);
    await site.press(/Add to the plant/);
    expect(site.asked('putMachine')).toMatchObject([{ id: 'pump' }]);
  });

  it('offers field devices as machines', async () => {
    const [machine] = plant().machines;
    if (!machine) throw new Error('no machine');
    const device = {
      address: '10.0.0.77',
      port: 502,
      unit: 1,
      speaks: true,
      by: 'the range 10.0.0.0/24',
      standing: 'new' as const,
      says: 'The plant does not know it.',
      machineId: null,
      proposal: { zone: null, machine: { ...machine, id: 'panel', name: 'Panel' } },
    };
    const site = await Site.open('/plant/discovery', {
      plantView: viewed,
      discovery: discovery({
        found: [],
        devices: [device, { ...device, address: '10.0.0.78', unit: null, speaks: false, proposal: null }],
      }),
      putMachine: { ...machine, id: 'panel', name: 'Panel' },
    });
    expect(site.headline).toBe('No server found. 2 field devices found.');
    const cells = [...site.one('hinge-found-devices tbody tr').children];
    expect(cells.map(({ textContent }) => (textContent ?? '').replace(/\s+/g, ' ').trim())).toEqual([
      '10.0.0.77 port 502',
      'as unit 1',
      'not in the plantThe plant does not know it.',
      'the range 10.0.0.0/24',
      'Add to the plant',
    ]);
    expect(site.text).toContain('its port is open, and nothing comes: another unit, or busy');
    await site.press(/Add to the plant/);
    expect(site.asked('putMachine')).toMatchObject([{ id: 'panel' }]);
  });

  it('looks where it is told to', async () => {
    const site = await Site.open('/plant/discovery', {
      plantView: viewed,
      discovery: discovery({ beganAt: null, found: [], faults: [] }),
      beginDiscovery: discovery({ running: true, found: [], faults: [] }),
    });
    await site.fill(/Ask discovery servers/, 'opc.tcp://directory:4840');
    await site.fill(/Dial addresses/, '127.41.10.0/28 127.41.20.0/28');
    await site.fill(/^OPC UA ports/, '4840, 4841');
    await site.fill(/^Device ports/, '502');
    await site.press(/Look for servers/);
    expect(site.asked('beginDiscovery')).toEqual([
      {
        discoveryUrls: ['opc.tcp://directory:4840'],
        ranges: ['127.41.10.0/28', '127.41.20.0/28'],
        ports: [4840, 4841],
        mapperPorts: [135],
        devicePorts: [502],
        machines: false,
      },
    ]);
    expect(site.text).toContain('Nothing yet.');
  });
});
