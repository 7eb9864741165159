import type {
  ClientApplication,
  Link,
  Machine,
  NeededItem,
  Plant,
  SecurityFloor,
  SecurityMode,
  SecurityPolicyName,
  ServerApplication,
  Zone,
} from '@loyal-hinge/core';

/** Marrowby Glass, a made-up float-glass works: what the engineer knows of it, and what really stands there. */

export const domain = 'marrowby.example';
const host = (name: string): string => `${name}.${domain}`;
const uri = (name: string): string => `urn:${domain}:${name}`;

const zones: readonly Zone[] = [
  { id: 'batch-house', name: 'Batch House', order: 1 },
  { id: 'hot-end', name: 'Hot End', order: 2 },
  { id: 'cold-end', name: 'Cold End', order: 3 },
  { id: 'control-room', name: 'Control Room', order: 4 },
  { id: 'plant-dmz', name: 'Plant DMZ', order: 5 },
  { id: 'works-office', name: 'Works Office', order: 6 },
];

const machine = (id: string, zoneId: string, name: string, address: string, description: string): Machine => ({
  id,
  zoneId,
  name,
  description,
  hostNames: [host(id)],
  addresses: [address],
});

const machines: readonly Machine[] = [
  machine('batch-scales', 'batch-house', 'Batch scales', '127.41.10.11', 'Weighs sand, soda ash and cullet'),
  machine('weighbridge', 'batch-house', 'Weighbridge', '127.41.10.12', 'Lorry scale at the gate'),
  machine('silo-levels', 'batch-house', 'Silo levels', '127.41.10.13', 'Radar gauges of the six silos'),
  machine('dust-filter', 'batch-house', 'Dust filter', '127.41.10.14', 'Bag filter above the mixers'),
  machine('furnace', 'hot-end', 'Furnace control', '127.41.20.11', 'Cross-fired furnace, six ports'),
  machine('tin-bath', 'hot-end', 'Tin bath control', '127.41.20.12', 'Atmosphere and top rollers'),
  machine('cullet-crusher', 'hot-end', 'Cullet crusher', '127.41.20.13', 'Returns broken glass to the batch'),
  {
    ...machine('lehr', 'cold-end', 'Lehr control', '127.41.30.11', 'Annealing lehr, eight zones, two network cards'),
    hostNames: [host('lehr'), host('lehr-both')],
    addresses: ['127.41.30.11', '127.41.30.111'],
  },
  machine('cutter', 'cold-end', 'Cutter control', '127.41.30.12', 'Cutting bridges and snapping rolls'),
  machine('stacker', 'cold-end', 'Stacker', '127.41.30.13', 'Takes the cut plates off the line'),
  machine('inspection', 'cold-end', 'Glass inspection', '127.41.30.14', 'Camera line behind the lehr'),
  machine('line-display', 'control-room', 'Line display', '127.41.40.21', 'Wall of screens'),
  machine('maintenance-laptop', 'control-room', 'Maintenance laptop', '127.41.40.31', 'Carried to the cabinets'),
  machine('old-recorder', 'control-room', 'Old recorder', '127.41.40.41', 'Paperless recorder of the first years'),
  machine('history', 'plant-dmz', 'History node', '127.41.50.21', 'Keeps process values for the office'),
  machine('energy', 'works-office', 'Energy board', '127.41.60.21', 'Gas and power per tonne of glass'),
];

export interface StandInItem {
  readonly path: string;
  readonly unit: 'degree_celsius' | 'percent' | 'kilogram' | 'metre_per_second' | 'pascal' | 'kilowatt' | 'count';
  readonly mean: number;
  /** How far the value strays from its mean. */
  readonly swing: number;
}

/** A UA server that is really started. */
export interface StandInServer {
  readonly id: string;
  readonly machineId: string;
  readonly name: string;
  readonly address: string;
  readonly port: number;
  /** Host that it advertises; where it is not its own, clients are sent astray. */
  readonly advertisedHost: string;
  readonly policies: readonly SecurityPolicyName[];
  readonly modes: readonly SecurityMode[];
  readonly anonymous: boolean;
  readonly users: readonly string[];
  /** Host names and days of validity of its certificate, counted from the day on which it is made. */
  readonly certificate: { readonly hosts: readonly string[]; readonly fromDay: number; readonly toDay: number };
  readonly items: readonly StandInItem[];
  /** Client applications whose certificates lie in its trusted list from the start. */
  readonly trusts: readonly string[];
}

const item = (path: string, unit: StandInItem['unit'], mean: number, swing: number): StandInItem => ({
  path,
  unit,
  mean,
  swing,
});

interface ServerSketch {
  readonly id: string;
  readonly name: string;
  readonly items: readonly StandInItem[];
  readonly trusts: readonly string[];
  readonly differs?: Partial<StandInServer>;
}

function server({ id, name, items, trusts, differs = {} }: ServerSketch): StandInServer {
  const home = machines.find((candidate) => candidate.id === id);
  if (!home) throw new Error(`no machine ${id}`);
  return {
    id: `${id}-server`,
    machineId: id,
    name,
    address: home.addresses[0] ?? '',
    port: 4840,
    advertisedHost: host(id),
    policies: ['Basic256Sha256', 'Aes256_Sha256_RsaPss'],
    modes: ['Sign', 'SignAndEncrypt'],
    anonymous: false,
    users: ['display', 'collector', 'technician'],
    certificate: { hosts: [...home.hostNames, ...home.addresses], fromDay: -200, toDay: 1500 },
    items,
    trusts,
    ...differs,
  };
}

export const standInServers: readonly StandInServer[] = [
  server({
    id: 'furnace',
    name: 'Furnace server',
    trusts: ['line-display-client', 'history-client', 'energy-client'],
    items: [
      item('Furnace/Crown temperature', 'degree_celsius', 1585, 6),
      item('Furnace/Bottom temperature', 'degree_celsius', 1240, 4),
      item('Furnace/Glass level', 'percent', 50, 0.4),
      item('Furnace/Gas flow', 'percent', 71, 3),
      item('Furnace/Furnace pressure', 'pascal', 8, 2),
      item('Furnace/Reversal/Seconds left', 'count', 600, 300),
    ],
  }),
  server({
    id: 'tin-bath',
    name: 'Tin bath server',
    trusts: ['line-display-client', 'history-client'],
    items: [
      item('Tin bath/Atmosphere/Hydrogen', 'percent', 5.2, 0.3),
      item('Tin bath/Atmosphere/Pressure', 'pascal', 24, 2),
      item('Tin bath/Entry temperature', 'degree_celsius', 1052, 3),
      item('Tin bath/Exit temperature', 'degree_celsius', 602, 2),
      item('Tin bath/Ribbon width', 'percent', 92, 0.6),
    ],
  }),
  server({
    id: 'lehr',
    name: 'Lehr server',
    trusts: ['line-display-client', 'history-client', 'energy-client', 'maintenance-client', 'old-recorder-client'],
    items: [
      item('Lehr/Zone A/Temperature', 'degree_celsius', 590, 3),
      item('Lehr/Zone B/Temperature', 'degree_celsius', 520, 3),
      item('Lehr/Zone C/Temperature', 'degree_celsius', 410, 4),
      item('Lehr/Zone D/Temperature', 'degree_celsius', 280, 4),
      item('Lehr/Roller speed', 'metre_per_second', 0.21, 0.01),
    ],
  }),
  server({
    id: 'batch-scales',
    name: 'Batch scales server',
    trusts: ['line-display-client', 'history-client', 'energy-client'],
    items: [
      item('Batch/Sand weight', 'kilogram', 2140, 60),
      item('Batch/Cullet weight', 'kilogram', 610, 40),
      item('Batch/Dolomite weight', 'kilogram', 505, 20),
      item('Batch/Mixer power', 'kilowatt', 74, 8),
    ],
  }),
  server({
    id: 'cutter',
    name: 'Cutter server',
    trusts: ['line-display-client', 'history-client'],
    items: [item('Cutter/Line speed', 'metre_per_second', 0.208, 0.01), item('Cutter/Plates cut', 'count', 5200, 40)],
    differs: { advertisedHost: 'cutter-cabinet-7' },
  }),
  server({
    id: 'stacker',
    name: 'Stacker server',
    trusts: ['line-display-client', 'energy-client'],
    items: [item('Stacker/Plates on stack', 'count', 36, 12), item('Stacker/Arm power', 'kilowatt', 11, 3)],
    differs: { certificate: { hosts: [host('stacker-north')], fromDay: -400, toDay: 1400 } },
  }),
  server({
    id: 'inspection',
    name: 'Inspection server',
    trusts: ['history-client'],
    items: [
      item('Inspection/Faults per hour', 'count', 14, 5),
      item('Inspection/Ribbon thickness', 'percent', 99.6, 0.3),
    ],
    differs: { certificate: { hosts: [host('inspection'), '127.41.30.14'], fromDay: -770, toDay: -40 } },
  }),
  server({
    id: 'dust-filter',
    name: 'Dust filter server',
    trusts: [],
    items: [item('Filter/Pressure drop', 'pascal', 1150, 80), item('Filter/Fan power', 'kilowatt', 31, 2)],
    differs: { policies: ['None'], modes: ['None'], anonymous: true, users: [] },
  }),
  server({
    id: 'cullet-crusher',
    name: 'Cullet crusher server',
    trusts: ['old-recorder-client'],
    items: [
      item('Crusher/Motor power', 'kilowatt', 45, 9),
      item('Crusher/Bearing temperature', 'degree_celsius', 61, 3),
    ],
    differs: { policies: ['Basic256'], modes: ['SignAndEncrypt'], users: ['recorder'] },
  }),
];

/** Applications that the plant believes to stand somewhere, and that are no UA servers. */
const believedServers: readonly ServerApplication[] = [
  {
    kind: 'server',
    id: 'weighbridge-server',
    machineId: 'weighbridge',
    name: 'Weighbridge server',
    applicationUri: uri('weighbridge-server'),
    ports: [4840],
  },
  {
    kind: 'server',
    id: 'silo-levels-server',
    machineId: 'silo-levels',
    name: 'Silo levels server',
    applicationUri: uri('silo-levels-server'),
    ports: [4840, 4850],
  },
];

export const weighbridgePage = { address: '127.41.10.12', port: 4840 };
export const silentPort = { address: '127.41.10.13', port: 4840 };
/** Beside its silent port this machine has one that speaks: so it is switched on. */
export const siloGaugePort = { address: '127.41.10.13', port: 4850 };

const modern: readonly SecurityPolicyName[] = ['Basic256Sha256', 'Aes256_Sha256_RsaPss'];

function client(
  id: string,
  machineId: string,
  name: string,
  differs: Partial<ClientApplication> = {},
): ClientApplication {
  return {
    kind: 'client',
    id,
    machineId,
    name,
    applicationUri: uri(id),
    securityPolicies: modern,
    securityModes: ['Sign', 'SignAndEncrypt'],
    ...differs,
  };
}

export const standInClients: readonly ClientApplication[] = [
  client('line-display-client', 'line-display', 'Line display'),
  client('history-client', 'history', 'History collector'),
  client('energy-client', 'energy', 'Energy board', {
    securityPolicies: ['None', ...modern],
    securityModes: ['None', 'Sign', 'SignAndEncrypt'],
  }),
  client('maintenance-client', 'maintenance-laptop', 'Maintenance laptop'),
  client('old-recorder-client', 'old-recorder', 'Old recorder', {
    securityPolicies: ['Basic256'],
    securityModes: ['SignAndEncrypt'],
  }),
];

/** Server certificates that lie in a client's trusted list from the start. */
export const clientTrust: Readonly<Record<string, readonly string[]>> = {
  'line-display-client': [
    'furnace-server',
    'tin-bath-server',
    'batch-scales-server',
    'cutter-server',
    'lehr-server',
    'stacker-server',
  ],
  'history-client': ['furnace-server', 'lehr-server', 'batch-scales-server', 'cutter-server', 'inspection-server'],
  'energy-client': ['furnace-server', 'lehr-server', 'batch-scales-server', 'stacker-server'],
  'maintenance-client': ['furnace-server', 'lehr-server'],
  'old-recorder-client': ['lehr-server', 'cullet-crusher-server'],
};

const watched = (...paths: readonly string[]): readonly NeededItem[] =>
  paths.map((path) => ({ path, uses: ['read', 'watch'] }));

interface LinkSketch {
  readonly from: string;
  readonly to: string;
  readonly url: string;
  readonly user: string | null;
  readonly needs: readonly NeededItem[];
  readonly floor?: SecurityFloor;
  /** The password kept for this link is not the one that the server knows. */
  readonly wrongPassword?: boolean;
}

const at = (name: string, port = 4840): string => `opc.tcp://${host(name)}:${port}`;

const sketches: readonly LinkSketch[] = [
  {
    from: 'line-display-client',
    to: 'furnace-server',
    url: at('furnace'),
    user: 'display',
    needs: watched('Furnace/Crown temperature', 'Furnace/Glass level'),
  },
  {
    from: 'line-display-client',
    to: 'tin-bath-server',
    url: at('tin-bath'),
    user: 'display',
    needs: watched('Tin bath/Atmosphere/Hydrogen', 'Tin bath/Exit temperature'),
  },
  {
    from: 'history-client',
    to: 'lehr-server',
    url: at('lehr'),
    user: 'collector',
    needs: watched('Lehr/Zone A/Temperature', 'Lehr/Zone D/Temperature', 'Lehr/Roller speed'),
  },
  {
    from: 'energy-client',
    to: 'furnace-server',
    url: at('furnace'),
    user: 'collector',
    needs: watched('Furnace/Gas flow'),
  },
  {
    from: 'history-client',
    to: 'batch-scales-server',
    url: at('batch-scalse'),
    user: 'collector',
    needs: watched('Batch/Sand weight'),
  },
  {
    from: 'energy-client',
    to: 'batch-scales-server',
    url: at('batch-scales', 4841),
    user: 'collector',
    needs: watched('Batch/Mixer power'),
  },
  {
    from: 'line-display-client',
    to: 'silo-levels-server',
    url: at('silo-levels'),
    user: 'display',
    needs: watched('Silos/Sand level'),
  },
  {
    from: 'energy-client',
    to: 'weighbridge-server',
    url: at('weighbridge'),
    user: 'collector',
    needs: watched('Weighbridge/Gross weight'),
  },
  {
    from: 'line-display-client',
    to: 'cutter-server',
    url: at('cutter'),
    user: 'display',
    needs: watched('Cutter/Line speed'),
  },
  {
    from: 'history-client',
    to: 'tin-bath-server',
    url: at('tin-bath'),
    user: 'collector',
    needs: watched('Tin bath/Entry temperature'),
  },
  {
    from: 'maintenance-client',
    to: 'furnace-server',
    url: at('furnace'),
    user: 'technician',
    needs: watched('Furnace/Bottom temperature'),
  },
  {
    from: 'history-client',
    to: 'inspection-server',
    url: at('inspection'),
    user: 'collector',
    needs: watched('Inspection/Faults per hour'),
  },
  {
    from: 'energy-client',
    to: 'stacker-server',
    url: at('stacker'),
    user: 'collector',
    needs: watched('Stacker/Arm power'),
  },
  {
    from: 'old-recorder-client',
    to: 'lehr-server',
    url: at('lehr'),
    user: 'collector',
    needs: watched('Lehr/Zone B/Temperature'),
  },
  {
    from: 'energy-client',
    to: 'dust-filter-server',
    url: at('dust-filter'),
    user: null,
    needs: watched('Filter/Fan power'),
    floor: 'any',
  },
  {
    from: 'maintenance-client',
    to: 'lehr-server',
    url: at('lehr'),
    user: 'technician',
    needs: watched('Lehr/Zone C/Temperature'),
    wrongPassword: true,
  },
  {
    from: 'line-display-client',
    to: 'batch-scales-server',
    url: at('batch-scales'),
    user: 'display',
    needs: watched('Batch/Sand weight', 'Batch/Soda ash weight'),
  },
  {
    from: 'history-client',
    to: 'furnace-server',
    url: `opc.tcp://furnace\u200b.${domain} :4840`,
    user: 'collector',
    needs: watched('Furnace/Crown temperature'),
  },
  {
    from: 'old-recorder-client',
    to: 'cullet-crusher-server',
    url: at('cullet-crusher'),
    user: 'recorder',
    needs: watched('Crusher/Bearing temperature'),
  },
  {
    from: 'energy-client',
    to: 'lehr-server',
    url: at('lehr-both'),
    user: 'collector',
    needs: watched('Lehr/Roller speed'),
  },
];

const linkId = ({ from, to }: LinkSketch): string => `${from.replace('-client', '')}--${to.replace('-server', '')}`;

function nameOf(applicationId: string): string {
  const known = [...standInClients, ...standInServers, ...believedServers].find(({ id }) => id === applicationId);
  return known?.name.replace(/ server$/, '') ?? applicationId;
}

const links: readonly Link[] = sketches.map((sketch) => ({
  id: linkId(sketch),
  name: `${nameOf(sketch.from)} to ${nameOf(sketch.to)}`,
  clientId: sketch.from,
  serverId: sketch.to,
  endpointUrl: sketch.url,
  pinnedAddress: null,
  chosenEndpoint: null,
  needs: sketch.needs,
  identity: sketch.user === null ? { kind: 'anonymous' } : { kind: 'user', userName: sketch.user },
  floor: sketch.floor ?? 'signed',
  staleAfterMs: 60_000,
}));

export const wrongPasswordLinks: readonly string[] = sketches.filter((sketch) => sketch.wrongPassword).map(linkId);

export const applicationUriOf = (applicationId: string): string => uri(applicationId);

/** The plant as its engineer has written it down. */
export const marrowbyGlass: Plant = {
  name: 'Marrowby Glass',
  zones,
  machines,
  applications: [
    ...standInServers.map((standIn): ServerApplication => ({
      kind: 'server',
      id: standIn.id,
      machineId: standIn.machineId,
      name: standIn.name,
      applicationUri: uri(standIn.id),
      ports: [standIn.port],
    })),
    ...believedServers,
    ...standInClients,
  ],
  links,
};

/** What the plant's name server knows. */
export const addressBook: ReadonlyMap<string, readonly string[]> = new Map([
  ...machines.map((known): [string, readonly string[]] => [
    known.hostNames[0] ?? known.id,
    known.addresses.slice(0, 1),
  ]),
  [host('lehr-both'), ['127.41.30.111', '127.41.30.11']] as [string, readonly string[]],
]);
