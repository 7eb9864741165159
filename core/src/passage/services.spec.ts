import type { Application, Machine } from '../plant/plant';
import { sayNumbers } from './addresses';
import { deviceNeedId, isLinkNeed, serviceNeedId } from './need-ids';
import { openingsOfService } from './services';
import type { PlantService } from './services';

const machine = (id: string, zoneId: string, ...addresses: readonly string[]): Machine => ({
  id,
  name: id,
  zoneId,
  description: '',
  hostNames: [],
  addresses,
});
const server = (machineId: string, ports: readonly number[], speaks: 'ua' | 'classic' = 'ua'): Application => ({
  kind: 'server',
  id: `${machineId}-server`,
  machineId,
  name: machineId,
  applicationUri: `urn:${machineId}`,
  speaks,
  ports,
});
const plant = {
  zones: [
    { id: 'hot', name: 'Hot End', order: 1 },
    { id: 'office', name: 'Office', order: 2 },
    { id: 'dmz', name: 'DMZ', order: 3 },
  ],
  machines: [
    machine('furnace', 'hot', '10.1.0.1'),
    machine('bath', 'hot', '10.1.0.2', '10.1.1.2'),
    machine('crusher', 'hot', '10.1.0.3'),
    machine('board', 'office', '10.4.0.1'),
    machine('directory', 'dmz', '10.5.0.1'),
    machine('archive', 'dmz', '10.5.0.2'),
    machine('printer', 'office', '10.4.0.9'),
  ],
  applications: [
    server('furnace', [4840]),
    server('bath', [4850, 4840]),
    server('crusher', [135], 'classic'),
    server('board', [4840]),
    server('archive', [4840]),
  ],
};
const service = (differs: Partial<PlantService> = {}): PlantService => ({
  id: 's',
  name: 'Service',
  kind: 'time',
  machineId: 'directory',
  port: 123,
  zoneIds: [],
  ...differs,
});
const needed = (of: PlantService, guarded: readonly string[] = []) =>
  openingsOfService(of, plant, new Set(guarded)).map(({ zone, openings }) => [
    zone.id,
    ...openings.map(
      ({ source, destination, protocol, ports }) =>
        `${source.join(' ')} to ${destination.join(' ')} ${protocol} ${sayNumbers(ports).join(',')}`,
    ),
  ]);

describe('What a service needs', () => {
  it('is one opening a zone, from its machines that speak OPC, and none within its own zone', () => {
    expect(needed(service())).toEqual([
      ['hot', '10.1.0.1 10.1.0.2 10.1.1.2 10.1.0.3 to 10.5.0.1 udp 123'],
      ['office', '10.4.0.1 to 10.5.0.1 udp 123'],
    ]);
    expect(needed(service({ zoneIds: ['office'] })).map(([zone]) => zone)).toEqual(['office']);
  });

  it('is UDP and TCP where names are asked for', () => {
    expect(needed(service({ kind: 'names', port: 53, zoneIds: ['office'] }))).toEqual([
      ['office', '10.4.0.1 to 10.5.0.1 udp 53', '10.4.0.1 to 10.5.0.1 tcp 53'],
    ]);
  });

  it('is for machines that speak OPC UA alone where it is discovery', () => {
    expect(needed(service({ kind: 'discovery', port: 4840, zoneIds: ['hot'] }))).toEqual([
      ['hot', '10.1.0.1 10.1.0.2 10.1.1.2 to 10.5.0.1 tcp 4840'],
    ]);
  });

  it('goes the other way, to the ports of each server, where certificates are managed', () => {
    const managing = service({ kind: 'management', machineId: 'archive', port: null, zoneIds: ['hot'] });
    expect(needed(managing)).toEqual([
      ['hot', '10.5.0.2 to 10.1.0.1 tcp 4840', '10.5.0.2 to 10.1.0.2 10.1.1.2 tcp 4840,4850'],
    ]);
    expect(openingsOfService(managing, plant, new Set())[0]?.openings[0]?.opens).toBe('server');
  });

  it('is told alone for a machine with a firewall of its own, in its own zone, too', () => {
    expect(needed(service(), ['bath', 'archive'])).toEqual([
      ['hot', '10.1.0.1 10.1.0.3 to 10.5.0.1 udp 123', '10.1.0.2 10.1.1.2 to 10.5.0.1 udp 123'],
      ['office', '10.4.0.1 to 10.5.0.1 udp 123'],
      ['dmz', '10.5.0.2 to 10.5.0.1 udp 123'],
    ]);
  });

  it('is nothing where its machine is not known', () => {
    expect(needed(service({ machineId: 'gone' }))).toEqual([]);
  });

  it('has an id that no link can have', () => {
    expect(isLinkNeed(serviceNeedId('time', 'hot'))).toBe(false);
    expect(isLinkNeed(deviceNeedId('furnace', 'crown-panel'))).toBe(false);
    expect(isLinkNeed('service-time-hot')).toBe(true);
    expect(deviceNeedId('time', 'hot')).not.toBe(serviceNeedId('time', 'hot'));
  });
});
