import type { ConduitWish, FirewallWish, ServiceWish } from '@loyal-hinge/contract';
import { ProblemError } from '../http/problems.js';
import { refuseUnfitConduit, refuseUnfitFirewall, refuseUnfitService } from './fit.js';
import type { KnownPlaces } from './fit.js';

const known: KnownPlaces = {
  machines: new Set(['furnace']),
  zones: new Set(['hot', 'control', 'office']),
  firewalls: new Set(['gate']),
  conduits: [{ id: 'in', name: 'Control to Hot End', fromZoneId: 'control', toZoneId: 'hot' }],
};
/** What is wrong, and where; null: nothing. */
function wrong(look: () => void): readonly [string, string | undefined] | null {
  try {
    look();
    return null;
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    return [error.problem.detail, error.problem.faults?.[0]?.place];
  }
}

describe('a firewall', () => {
  const firewall = (differs: Partial<FirewallWish> = {}): FirewallWish => ({
    name: 'Gate',
    machineId: null,
    interfaces: [
      { name: 'a', zoneId: 'hot' },
      { name: 'b', zoneId: 'control' },
    ],
    ...differs,
  });
  it.each([
    [firewall(), null],
    [firewall({ machineId: 'furnace', interfaces: [] }), null],
    [firewall({ machineId: 'nobody' }), ['There is no machine “nobody”.', 'machineId']],
    [firewall({ interfaces: [{ name: 'a', zoneId: 'nowhere' }] }), ['There is no zone “nowhere”.', 'interfaces']],
  ])('names a machine and zones of the plant: %j', (wish, wanted) => {
    expect(wrong(() => refuseUnfitFirewall(known, wish))).toEqual(wanted);
  });
});

describe('a conduit', () => {
  const conduit = (differs: Partial<ConduitWish> = {}): ConduitWish => ({
    name: 'Office to Hot End',
    fromZoneId: 'office',
    toZoneId: 'hot',
    firewallIds: ['gate'],
    targetLevel: null,
    ...differs,
  });
  it.each([
    [conduit(), null, null],
    [conduit({ toZoneId: 'nowhere' }), null, ['There is no zone “nowhere”.', 'toZoneId']],
    [conduit({ fromZoneId: 'nowhere' }), null, ['There is no zone “nowhere”.', 'fromZoneId']],
    [conduit({ firewallIds: ['gate', 'wall'] }), null, ['There is no firewall “wall”.', 'firewallIds']],
    [
      conduit({ fromZoneId: 'control' }),
      null,
      ['“Control to Hot End” already leads from the one zone to the other.', 'toZoneId'],
    ],
    [conduit({ fromZoneId: 'control' }), 'in', null],
    [conduit({ fromZoneId: 'hot', toZoneId: 'control' }), null, null],
  ])('leads where no other one does: %j, being %j', (wish, own, wanted) => {
    expect(wrong(() => refuseUnfitConduit(known, wish, own))).toEqual(wanted);
  });
});

describe('a service', () => {
  const service = (differs: Partial<ServiceWish> = {}): ServiceWish => ({
    name: 'Time',
    kind: 'time',
    machineId: 'furnace',
    port: 123,
    zoneIds: [],
    ...differs,
  });
  it.each([
    [service(), null],
    [service({ machineId: 'nobody' }), ['There is no machine “nobody”.', 'machineId']],
    [service({ zoneIds: ['hot', 'nowhere'] }), ['There is no zone “nowhere”.', 'zoneIds']],
  ])('runs on a machine of the plant, for its zones: %j', (wish, wanted) => {
    expect(wrong(() => refuseUnfitService(known, wish))).toEqual(wanted);
  });
});
