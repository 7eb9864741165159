import { subject } from '../testing/builders.js';
import type { Machine } from '../plant/plant.js';
import { clientSideOf, tunnelTargetOf } from './tunnelled.js';
import { sayTunnelChange, undoOfTunnelChange } from './tunnel-order.js';
import type { TunnelChange } from './tunnel-order.js';

const { clientMachine: inFirst, ...others } = subject();
const clientMachine: Machine = { ...inFirst, zoneId: 'of-the-client' };
const link = { ...others, clientMachine };
const { serverMachine } = link;
const beside = (machine: Machine): Machine => ({ ...machine, id: `beside-${machine.id}` });
const elsewhere: Machine = { ...clientMachine, id: 'elsewhere', zoneId: 'elsewhere' };
const sideOf = (listens: Machine, dials: Machine) =>
  clientSideOf(link, { name: 'Hot end tunnel', machines: { listens, dials } });

describe('The end of a tunnel at which a link’s client stands', () => {
  it.each([
    ['on its machine', clientMachine, serverMachine, 'listens'],
    ['on its machine, which dials', serverMachine, clientMachine, 'dials'],
    ['in its zone', beside(serverMachine), beside(clientMachine), 'dials'],
  ] as const)('is the one %s', (_, listens, dials, side) => {
    expect(sideOf(listens, dials)).toEqual({ ok: true, side });
  });

  it('is none where an end stands elsewhere', () => {
    expect(sideOf(elsewhere, serverMachine)).toMatchObject({ ok: false });
    expect(sideOf(clientMachine, elsewhere)).toMatchObject({ ok: false });
  });

  it('is none for classic OPC, and it is said why', () => {
    const classic = { ...link, link: { ...link.link, kind: 'classic' as const } };
    const found = clientSideOf(classic, { name: 'T', machines: { listens: clientMachine, dials: serverMachine } });
    expect(found.ok ? '' : found.says).toContain('one port can’t carry it');
  });
});

describe('What a tunnel leads to', () => {
  it('is the server’s machine at the port of the link’s URL, or the pinned address', () => {
    expect(tunnelTargetOf(link)).toEqual({ address: serverMachine.addresses[0], port: 4840 });
    const pinned = { ...link, link: { ...link.link, pinnedAddress: '10.9.9.9' } };
    expect(tunnelTargetOf(pinned)?.address).toBe('10.9.9.9');
  });
});

describe('Lines at the machines of a tunnel', () => {
  const tunnel = { tunnelId: 't', tunnel: 'Hot end tunnel', machineId: 'display' };
  const setUp: TunnelChange = {
    kind: 'set-up-tunnel-end',
    ...tunnel,
    outpostId: 't-dials',
    side: 'dials',
    address: '10.0.0.1',
    port: 48_500,
  };
  const lead: TunnelChange = {
    kind: 'lead-through-tunnel',
    ...tunnel,
    linkId: 'l',
    client: 'Display',
    host: 'furnace.works.example',
    port: 4840,
    entranceAddress: '10.0.0.7',
    entrancePort: 4840,
  };

  it.each([setUp, lead])('say before and after, and the other way round when they are taken back', (change) => {
    const there = sayTunnelChange(change, 'Display');
    const back = sayTunnelChange(undoOfTunnelChange(change), 'Display');
    expect(there.title).not.toBe(back.title);
    expect(undoOfTunnelChange(undoOfTunnelChange(change))).toEqual(change);
    if (change.kind === 'lead-through-tunnel') expect([back.before, back.after]).toEqual([there.after, there.before]);
  });

  it('name the line of a hosts file where the port stays, and the entrance where it does not', () => {
    expect(sayTunnelChange(lead, 'Display').after).toContain('10.0.0.7 furnace.works.example');
    expect(sayTunnelChange({ ...lead, entrancePort: 48_400 }, 'Display').after).toBe('dials 10.0.0.7 port 48400');
  });
});
