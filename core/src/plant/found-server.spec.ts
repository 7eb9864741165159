import { subject } from '../testing/builders.js';
import type { Plant } from './plant.js';
import { plantFaults } from './plant.js';
import { deviceStandingOf, standingOf } from './found-server.js';
import type { FoundServer } from './found-server.js';

const { client, server, machines, link } = subject();
const plant: Plant = {
  name: 'Works',
  zones: [{ id: 'hot-end', name: 'Hot End', order: 1 }],
  machines,
  applications: [client, server],
  links: [link],
};
const found = (differs: Partial<FoundServer> = {}): FoundServer => ({
  endpointUrl: 'opc.tcp://furnace.works.example:4840',
  host: 'furnace.works.example',
  address: '10.0.0.1',
  port: 4840,
  applicationUri: 'urn:works.example:furnace',
  applicationName: 'Furnace server',
  thumbprint: null,
  by: 'a sweep',
  ...differs,
});
const awkward = { applicationUri: 'urn:works.example:pump', applicationName: `\u0000\u202e${'ö'.repeat(400)}\ud800` };
const stranger = { applicationUri: 'urn:works.example:pump', applicationName: 'Dosing pump' };

describe('a server that was found', () => {
  it('is known where the plant has it there', () => {
    expect(standingOf(plant, found())).toMatchObject({ standing: 'known', applicationId: 'furnace-server' });
  });

  it.each([
    [{ address: '10.0.0.3' }, 'found at 10.0.0.3, on lehr'],
    [{ address: '10.0.0.99' }, 'on no machine that the plant knows'],
    [{ port: 4841 }, 'at port 4840, and answers at 4841'],
  ])('differs: %j', (differs, words) => {
    expect(standingOf(plant, found(differs))).toMatchObject({
      standing: 'differs',
      says: expect.stringContaining(words),
    });
  });

  it('is proposed on the machine that has its address', () => {
    expect(standingOf(plant, found(stranger))).toMatchObject({
      standing: 'new',
      proposal: { machine: null, application: { id: 'dosing-pump', machineId: 'furnace', ports: [4840] } },
    });
  });

  it('is proposed with a machine of its own, so that the plant still holds together', () => {
    const standing = standingOf(plant, found({ ...stranger, address: '10.0.0.77', host: 'furnace.other.example' }));
    if (standing.standing !== 'new' || !standing.proposal?.machine) throw new Error('nothing is proposed');
    const { machine, application } = standing.proposal;
    expect(machine).toMatchObject({ id: 'furnace-2', hostNames: ['furnace.other.example'], addresses: ['10.0.0.77'] });
    const after = {
      ...plant,
      machines: [...plant.machines, machine],
      applications: [...plant.applications, application],
    };
    expect(plantFaults(after)).toEqual([]);
  });

  it('without a name of any use gets an id all the same', () => {
    const nameless = { applicationUri: '…', applicationName: '' };
    expect(standingOf(plant, found(nameless))).toMatchObject({ proposal: { application: { id: 'found' } } });
  });

  it('is proposed with a zone where the plant has none yet', () => {
    const empty: Plant = { name: 'Works', zones: [], machines: [], applications: [], links: [] };
    const standing = standingOf(empty, found(stranger));
    if (standing.standing !== 'new' || !standing.proposal) throw new Error('not proposed');
    const { zone, machine, application } = standing.proposal;
    if (!zone || !machine) throw new Error('nothing to stand in');
    expect(machine.zoneId).toBe(zone.id);
    expect(plantFaults({ ...empty, zones: [zone], machines: [machine], applications: [application] })).toEqual([]);
  });

  it('is proposed under a name that can be kept, whatever it calls itself', () => {
    const standing = standingOf(plant, found({ ...awkward, host: 'furnace..works_é', address: '10.0.0.77' }));
    if (standing.standing !== 'new' || !standing.proposal) throw new Error('not proposed');
    expect(standing.proposal.application.name).toBe('ö'.repeat(120));
    expect(standing.proposal.machine).toMatchObject({ name: '10.0.0.77', hostNames: [] });
  });

  it.each(['', '  ', 'urn:a\u0000b', 'u'.repeat(501)])(
    'is told and not proposed with the application URI %j',
    (applicationUri) => {
      expect(standingOf(plant, found({ applicationUri }))).toMatchObject({ standing: 'new', proposal: null });
    },
  );
});

describe('a device that was found', () => {
  const device = { host: '10.0.0.1', address: '10.0.0.1', port: 502, by: 'a sweep', unit: 1, speaks: true };

  it('is known where the plant has its address', () => {
    expect(deviceStandingOf(plant, device)).toMatchObject({ standing: 'known', machineId: 'furnace', proposal: null });
  });

  it('is proposed as a machine, with a zone where there is none', () => {
    const stranger = { ...device, host: 'panel.works.example', address: '10.0.0.77' };
    const { proposal } = deviceStandingOf(plant, stranger);
    expect(proposal).toMatchObject({
      zone: null,
      machine: { id: 'panel', addresses: ['10.0.0.77'], zoneId: 'hot-end' },
    });
    const empty: Plant = { name: 'Works', zones: [], machines: [], applications: [], links: [] };
    const { proposal: first } = deviceStandingOf(empty, stranger);
    if (!first?.zone) throw new Error('no zone');
    expect(plantFaults({ ...empty, zones: [first.zone], machines: [first.machine] })).toEqual([]);
  });
});

describe('a classic server in a machine’s list', () => {
  const classicServer = {
    ...server,
    id: 'furnace-data',
    name: 'Furnace data',
    applicationUri: '',
    speaks: 'classic' as const,
    ports: [135],
  };
  const withClassic: Plant = { ...plant, applications: [client, server, classicServer] };
  const listed = (progId: string, differs: Partial<FoundServer> = {}, categories: readonly string[] = ['DA 2']) =>
    found({
      endpointUrl: `classic://furnace.works.example:135/${progId}`,
      port: 135,
      applicationUri: '',
      applicationName: 'As it calls itself',
      classic: { progId, clsid: '5d8f0b52-3c1e-4f6a-9a70-2b6c1de90101', categories },
      ...differs,
    });
  const linkTo = (program: string): Plant => ({
    ...withClassic,
    links: [
      {
        ...link,
        kind: 'classic',
        serverId: classicServer.id,
        endpointUrl: `classic://furnace.works.example:135/${program}`,
      },
    ],
  });

  it('is known by a link that names its program or its class, or by its name', () => {
    const known = { standing: 'known', applicationId: 'furnace-data' };
    expect(standingOf(linkTo('Works.FurnaceData.1'), listed('works.furnacedata.1'))).toMatchObject(known);
    expect(standingOf(linkTo('{5D8F0B52-3C1E-4F6A-9A70-2B6C1DE90101}'), listed('Works.Other.1'))).toMatchObject(known);
    expect(standingOf(withClassic, listed('X.1', { applicationName: 'furnace DATA' }))).toMatchObject(known);
  });

  it('is new by any other program, or on another machine, and proposed without a URI', () => {
    expect(standingOf(linkTo('Works.FurnaceData.1'), listed('Works.Other.1'))).toMatchObject({
      standing: 'new',
      proposal: {
        zone: null,
        machine: null,
        application: { machineId: 'furnace', speaks: 'classic', applicationUri: '', ports: [135] },
      },
    });
    const elsewhere = listed('Works.FurnaceData.1', { address: '10.0.0.99', host: '10.0.0.99' });
    expect(standingOf(linkTo('Works.FurnaceData.1'), elsewhere)).toMatchObject({
      standing: 'new',
      proposal: { machine: { addresses: ['10.0.0.99'] } },
    });
  });

  it('is not proposed where it offers nothing that is used', () => {
    expect(standingOf(withClassic, listed('Works.Alarms.1', {}, ['A&E', 'HDA']))).toEqual({
      standing: 'new',
      says: 'It offers A&E and HDA alone, which is found here and not used.',
      proposal: null,
    });
  });
});
