import type { DiscoveryWish } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import { inPlant, plantGiven } from '../testing/given.js';
import type { Caller } from '../testing/calls.js';
import { Relay } from '../testing/relay.js';
import { until } from '../testing/until.js';

let engineer: Caller;
beforeAll(async () => {
  engineer = await signIn('engineer');
});

const nowhere: DiscoveryWish = {
  discoveryUrls: [],
  machines: false,
  ranges: [],
  ports: [4840],
  mapperPorts: [],
  devicePorts: [],
};

async function look(wish: Partial<DiscoveryWish>) {
  await engineer.call('beginDiscovery', {}, { ...nowhere, ...wish });
  return until(
    () => engineer.call('discovery'),
    ({ running }) => !running,
  );
}

describe('looking for servers', () => {
  it('asks a discovery server, visits what it tells of, and proposes what the plant does not know', async () => {
    const { found, faults } = await look({ discoveryUrls: ['opc.tcp://directory.marrowby.example:4840'] });
    const standingBy = Object.fromEntries(found.map(({ applicationName, standing }) => [applicationName, standing]));
    expect(standingBy).toEqual({
      'Directory server': 'known',
      'Furnace server': 'known',
      'Lehr server': 'known',
      'Gas meter server': 'known',
      'Dosing pump server': 'new',
      'Crane server': 'known',
    });
    expect(faults.join(' ')).toContain('cutter-cabinet-7');
    expect(found.find(({ standing }) => standing === 'new')?.proposal).toMatchObject({
      machine: { id: 'dosing-pump', addresses: [inPlant('10.31')] },
      application: { applicationUri: 'urn:marrowby.example:dosing-pump-server', ports: [4840] },
    });
    const plant = await engineer.call('plant');
    expect(plant.machines.map(({ id }) => id)).not.toContain('dosing-pump');
  });

  it('sweeps a range, and takes nothing for a server that is none', async () => {
    const { found, done, total } = await look({ ranges: [inPlant('10.8/29')], ports: [4840, 4850] });
    expect(found.map(({ applicationName }) => applicationName).sort()).toEqual([
      'Batch scales server',
      'Dust filter server',
    ]);
    expect([done, total]).toEqual([16, 16]);
  });

  it('offers field devices that answer, with the unit that does, and writes nothing', async () => {
    // The burner panel answers as unit 3 alone; the cullet scale has the connection that it takes; the stack probe is shut off.
    const { devices, found } = await look({
      ports: [],
      ranges: ['10.70/31', '10.72/31', '20.70/31', '20.72/31'].map(inPlant),
      devicePorts: [5020],
    });
    expect(found).toEqual([]);
    const seen = devices.map(({ address, unit, speaks, says }) => [address, unit, speaks, says]).sort();
    expect(seen).toEqual([
      [inPlant('10.71'), 1, true, 'It is Batch weigher.'],
      [inPlant('10.72'), null, false, 'It is Cullet scale.'],
      [inPlant('20.71'), 1, true, 'It is Water meter.'],
      [inPlant('20.72'), null, false, 'It is Burner panel.'],
    ]);
    expect(devices.every(({ standing }) => standing === 'known')).toBe(true);
  });

  it('dials nothing outside the declared ranges, and no more than it should', async () => {
    expect(await engineer.refused('beginDiscovery', {}, { ...nowhere, ranges: ['127.200.0.0/30'] })).toMatchObject({
      detail: expect.stringContaining('is outside the address ranges'),
    });
    expect(await engineer.refused('beginDiscovery', {}, { ...nowhere, ranges: [inPlant('0.0/16')] })).toMatchObject({
      detail: expect.stringContaining('more than 1024 addresses'),
    });
    expect(await engineer.refused('beginDiscovery', {}, nowhere)).toMatchObject({ status: 400 });
  });

  it('asks machines for their lists of classic servers, as an account that it knows there', async () => {
    const port = plantGiven().plant.applications.flatMap((one) =>
      one.kind === 'server' && one.speaks === 'classic' ? one.ports : [],
    )[0];
    const { found, faults } = await look({
      ranges: [inPlant('30.41/32'), inPlant('10.41/32'), inPlant('10.42/32'), inPlant('10.8/32')],
      ports: [],
      mapperPorts: [port ?? 135],
    });
    const standingBy = Object.fromEntries(found.map(({ classic, standing }) => [classic?.progId, standing]));
    expect(standingBy).toEqual({
      'Marrowby.LehrData.1': 'known',
      'Marrowby.LehrTrial.1': 'new',
      'Marrowby.LehrAlarms.1': 'new',
      'Marrowby.SiloData.1': 'known',
    });
    const of = (progId: string) => found.find(({ classic }) => classic?.progId === progId);
    expect(of('Marrowby.LehrTrial.1')).toMatchObject({
      classic: { categories: ['DA 2'] },
      proposal: {
        machine: null,
        application: { machineId: 'lehr-data', speaks: 'classic', applicationUri: '', ports: [port] },
      },
    });
    expect(of('Marrowby.LehrAlarms.1')).toMatchObject({ proposal: null, says: expect.stringContaining('A&E alone') });
    // Whom a machine takes for a guest gets nothing of it.
    expect(faults).toHaveLength(1);
    expect(faults[0]).toMatch(/10\.41.*does not give its list of servers to “trend”.*access is denied/);
  });

  it('sends a kept password where its link sends it, and to no other address of the machine', async () => {
    const { plant } = plantGiven();
    const port = plant.applications.flatMap((one) =>
      one.kind === 'server' && one.speaks === 'classic' ? one.ports : [],
    )[0];
    const machine = plant.machines.find(({ id }) => id === 'lehr-data');
    const relay = new Relay(inPlant('96.3'), port ?? 135, inPlant('30.41'));
    await relay.listen();
    const put = (addresses: readonly string[]) =>
      engineer.call('putMachine', { id: 'lehr-data' }, { ...machine, addresses } as never);
    try {
      await put([...(machine?.addresses ?? []), inPlant('96.3')]);
      const { found, faults } = await look({ ranges: [inPlant('96.3/32')], ports: [], mapperPorts: [port ?? 135] });
      expect(found).toEqual([]);
      expect(faults.join(' ')).toMatch(/96\.3.*does not give its list of servers to nobody who does not sign in/);
    } finally {
      await put(machine?.addresses ?? []);
      await relay.cut();
    }
  });

  it('can be stopped', async () => {
    await engineer.call('beginDiscovery', {}, { ...nowhere, ranges: [inPlant('10.0/26')] });
    await engineer.call('stopDiscovery', {}, {});
    const { done, total } = await until(
      () => engineer.call('discovery'),
      ({ running }) => !running,
    );
    expect(done).toBeLessThan(total);
  });
});
