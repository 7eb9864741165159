import type { Machine, Zone } from '../plant/plant.js';
import type { PassageHook } from './judge.js';

/** A firewall of which the plant knows where it stands. */
export interface PassageDevice {
  readonly id: string;
  readonly name: string;
  /** Whose own firewall it is; null: it stands between zones. */
  readonly machineId: string | null;
  /** Its interfaces, and the zones behind them; of a machine’s own firewall none. */
  readonly interfaces: readonly DeviceInterface[];
}
export interface DeviceInterface {
  readonly name: string;
  readonly zoneId: string;
}

/** Which zone may open connections to which, and over which firewalls (IEC 62443-3-2, “conduit”). */
export interface Conduit {
  readonly id: string;
  readonly name: string;
  /** From here connections are opened. */
  readonly fromZoneId: string;
  readonly toZoneId: string;
  /** In the order from one to the other; empty: whichever join the two. */
  readonly deviceIds: readonly string[];
}

export interface PassagePlan {
  readonly zones: readonly Pick<Zone, 'id' | 'name'>[];
  readonly devices: readonly PassageDevice[];
  readonly conduits: readonly Conduit[];
}

/** A firewall on the way, and where a packet comes in and goes out. */
export interface Hop {
  readonly device: PassageDevice;
  readonly hook: PassageHook;
  /** Empty: it is not known, or there is none. */
  readonly in: string;
  readonly out: string;
}

export interface Way {
  readonly hops: readonly Hop[];
  /** Zones from the first to the last, those between among them. */
  readonly zoneIds: readonly string[];
  /** The conduit that allows it; null: both ends are in one zone, or there is none. */
  readonly conduit: Conduit | null;
  /** Whether the plan says how the zones are joined; where it doesn’t, only the machines’ own firewalls are known. */
  readonly isJoined: boolean;
}

type Place = Pick<Machine, 'id' | 'zoneId'>;

/** The firewalls between two machines, in the order in which a packet from the first meets them. */
export function wayBetween(plan: PassagePlan, from: Place, to: Place): Way {
  const own = (machineId: string, hook: PassageHook): readonly Hop[] =>
    plan.devices
      .filter((device) => device.machineId === machineId)
      .map((device) => ({ device, hook, in: '', out: '' }));
  const conduit = plan.conduits.find((each) => each.fromZoneId === from.zoneId && each.toZoneId === to.zoneId) ?? null;
  const between = from.id === to.id ? [] : crossing(plan, from.zoneId, to.zoneId, conduit);
  const isSameMachine = from.id === to.id;
  return {
    hops: isSameMachine
      ? []
      : [...own(from.id, 'output'), ...(between ?? []).map(({ hop }) => hop), ...own(to.id, 'input')],
    zoneIds: [from.zoneId, ...(between ?? []).map(({ zoneId }) => zoneId)],
    conduit,
    isJoined: between !== null,
  };
}

interface Crossed {
  readonly hop: Hop;
  /** Where it leads. */
  readonly zoneId: string;
}

/** The shortest way over firewalls between zones, over those of the conduit where it names any. null: none joins them. */
function crossing(plan: PassagePlan, from: string, to: string, conduit: Conduit | null): readonly Crossed[] | null {
  if (from === to) return [];
  const named = conduit?.deviceIds ?? [];
  const devices = plan.devices.filter(
    ({ id, machineId }) => machineId === null && (named.length === 0 || named.includes(id)),
  );
  const reached = new Map<string, readonly Crossed[]>([[from, []]]);
  for (const [zoneId, way] of reached)
    for (const device of devices) {
      const before = device.interfaces.find((each) => each.zoneId === zoneId);
      if (!before) continue;
      for (const after of device.interfaces) {
        if (after === before || reached.has(after.zoneId)) continue;
        const hop: Hop = { device, hook: 'forward', in: before.name, out: after.name };
        const whole = [...way, { hop, zoneId: after.zoneId }];
        if (after.zoneId === to) return whole;
        reached.set(after.zoneId, whole);
      }
    }
  return null;
}
