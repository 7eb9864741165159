import { scaleBand } from 'd3';
import { machinesOfZone } from '@loyal-hinge/core';
import type { LinkPassage, PassageOpening, PassageView } from '@loyal-hinge/contract';
import { isStopped } from './passage-words';

/** Where everything stands on the map of zones and firewalls, in pixels. */
export interface MapLayout {
  readonly width: number;
  readonly height: number;
  readonly zones: readonly {
    readonly targetLevel: number | null;
    readonly id: string;
    readonly name: string;
    readonly y: number;
    readonly height: number;
  }[];
  readonly machines: readonly {
    readonly id: string;
    readonly name: string;
    readonly x: number;
    readonly y: number;
    readonly width: number;
  }[];
  readonly firewalls: readonly MapFirewall[];
  readonly lanes: number;
}
export interface MapFirewall {
  readonly id: string;
  readonly name: string;
  /** Between zones: the line that joins them; of a machine’s own, the mark at its machine. */
  readonly x: number;
  readonly from: number;
  readonly to: number;
  readonly ports: readonly { readonly name: string; readonly zoneId: string; readonly y: number }[];
  readonly machineId: string | null;
  readonly stopped: number;
}

const width = 1180;
const zoneNames = 132;
const laneWidth = 112;
const chip = { width: 138, height: 26, gap: 8 } as const;
const padding = 12;
/** Ways leave a machine below it, where no other stands. */
const below = 4;

/** Zones as bands from the top, machines within them in rows, firewalls as lines that cross the bands they join. */
export function layoutOf(view: PassageView): MapLayout {
  const between = view.firewalls.filter(({ machineId }) => machineId === null);
  const lanesFrom = width - Math.max(1, between.length) * laneWidth;
  const perRow = Math.max(1, Math.floor((lanesFrom - zoneNames - padding) / (chip.width + chip.gap)));
  let y = 0;
  const zones = view.zones.map(({ id, name, targetLevel }) => {
    const count = view.machines.filter(({ zoneId }) => zoneId === id).length;
    const rows = Math.max(1, Math.ceil(count / perRow));
    const height = rows * (chip.height + chip.gap) - chip.gap + 2 * padding;
    const band = { id, name, targetLevel, y, height };
    y += height + 4;
    return band;
  });
  const bandOf = new Map(zones.map((zone) => [zone.id, zone]));
  const machines = zones.flatMap((zone) =>
    view.machines
      .filter(({ zoneId }) => zoneId === zone.id)
      .map(({ id, name }, index) => ({
        id,
        name,
        x: zoneNames + (index % perRow) * (chip.width + chip.gap),
        y: zone.y + padding + Math.floor(index / perRow) * (chip.height + chip.gap),
        width: chip.width,
      })),
  );
  const lane = scaleBand<string>()
    .domain(between.map(({ id }) => id))
    .range([lanesFrom, width]);
  const firewalls = view.firewalls.flatMap((firewall): readonly MapFirewall[] => {
    const { id, name, machineId, stopped } = firewall;
    if (machineId !== null) {
      const own = machines.find((machine) => machine.id === machineId);
      return own ? [{ id, name, machineId, stopped, x: own.x, from: own.y, to: own.y + chip.height, ports: [] }] : [];
    }
    const x = (lane(id) ?? lanesFrom) + lane.bandwidth() / 2;
    const ports = firewall.interfaces.flatMap((each) => {
      const band = bandOf.get(each.zoneId);
      return band ? [{ name: each.name, zoneId: each.zoneId, y: band.y + band.height / 2 }] : [];
    });
    const ends = ports.map((port) => port.y);
    return [{ id, name, machineId, stopped, x, from: Math.min(...ends), to: Math.max(...ends), ports }];
  });
  return { width, height: Math.max(y - 4, 40), zones, machines, firewalls, lanes: lanesFrom };
}

/** A link’s way across the map, as points; where it stops, and what becomes of it. */
export interface DrawnWay {
  readonly points: readonly (readonly [x: number, y: number])[];
  /** null: it gets through. */
  readonly stop: { readonly x: number; readonly y: number; readonly name: string } | null;
}

/** The opening of a link that is drawn: one that is stopped before others. */
export const drawnOpening = ({ openings }: LinkPassage): PassageOpening | undefined =>
  openings.find(({ verdict }) => isStopped(verdict)) ?? openings[0];

/** From the machine that opens the connection over the firewalls to the other; cut where a firewall stops it. */
export function wayOf(layout: MapLayout, link: LinkPassage): DrawnWay | null {
  const opening = drawnOpening(link);
  if (!opening) return null;
  const { zoneIds } = opening.between;
  const first = endOf(layout, opening.between.from, zoneIds[0]);
  const last = endOf(layout, opening.between.to, zoneIds.at(-1));
  if (!first || !last) return null;
  const start = leaving(first);
  const points: (readonly [number, number])[] = [...start];
  let place = 0;
  for (const told of opening.firewalls) {
    const firewall = layout.firewalls.find(({ id }) => id === told.id);
    if (!firewall) continue;
    const stops = isStopped(told.verdict);
    if (firewall.machineId !== null) {
      if (stops)
        return {
          points: [...points, [firewall.x - 6, middle(firewall.from)]],
          stop: { x: firewall.x - 6, y: middle(firewall.from), name: firewall.name },
        };
      continue;
    }
    const before = firewall.ports.find(({ zoneId }) => zoneId === zoneIds[place])?.y ?? points.at(-1)?.[1] ?? 0;
    const after = firewall.ports.find(({ zoneId }) => zoneId === zoneIds[place + 1])?.y ?? before;
    place += 1;
    const level = points.length === start.length ? (points.at(-1)?.[1] ?? before) : before;
    points.push([firewall.x, level]);
    if (stops) {
      const y = (level + after) / 2;
      return { points: [...points, [firewall.x, y]], stop: { x: firewall.x, y, name: firewall.name } };
    }
    points.push([firewall.x, after]);
  }
  const end = [...leaving(last)].reverse();
  const [, level = 0] = end[0] ?? [];
  /* The last line goes on to where the server’s machine is. */
  const isCrossed = points.length > start.length;
  const [x = 0] = points.at(-1) ?? [];
  return { points: [...(isCrossed ? points.slice(0, -1) : points), [x, level], ...end], stop: null };
}

type Chip = Pick<MapLayout['machines'][number], 'x' | 'y' | 'width'>;

/** A machine, or where all machines of a zone are meant the zone’s name. */
function endOf({ machines, zones }: MapLayout, name: string, zoneId: string | undefined): Chip | null {
  const machine = machines.find((each) => each.name === name);
  const zone = zones.find((each) => each.id === zoneId && machinesOfZone(each).name === name);
  if (machine || !zone) return machine ?? null;
  return { x: padding, y: zone.y + padding, width: zoneNames - 2 * padding };
}

/** From the middle of a machine’s lower edge to the free space below it. */
const leaving = ({ x, y, width: across }: Chip): readonly (readonly [number, number])[] => [
  [x + across / 2, y + chip.height],
  [x + across / 2, y + chip.height + below],
];

const middle = (y: number): number => y + chip.height / 2;
export const chipHeight = chip.height;
