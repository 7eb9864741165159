import { readFileSync } from 'node:fs';
import { categories } from '@loyal-hinge/classic';
import type { ListEntry } from '@loyal-hinge/classic';
import type { CallLevel, ClientApplication, Link, Machine, NeededItem, ServerApplication } from '@loyal-hinge/core';
import type { ClassicProgram } from '../classic/classic-machine.js';
import { lehrItems } from '../classic/lehr-items.js';
import { swinging } from '../classic/process-space.js';
import type { ClassicItem } from '../classic/process-space.js';
import { signedInAccess, signedInLaunch } from '../classic/settings-text.js';
import type { ClassicSettings } from '../classic/settings-text.js';
import { inBlock } from './address-block.js';
import { polledBy } from './field.js';
import { host } from './machines.js';

/** The mapper’s port: the registered one where it may be had here, else another, which the plant then knows. */
export const mapperPort = mayHave(135) ? 135 : 10_135;

function mayHave(port: number): boolean {
  if (process.getuid?.() === 0) return true;
  try {
    return Number(readFileSync('/proc/sys/net/ipv4/ip_unprivileged_port_start', 'utf8')) <= port;
  } catch {
    return false;
  }
}

/** A classic machine of the made-up plant, with what it keeps to. */
export interface ClassicStandIn {
  readonly machine: Machine;
  readonly settings: Omit<ClassicSettings, 'applications'>;
  readonly programs: readonly ClassicStandInProgram[];
  /** Its servers run as an account of their own, which the client does not know. */
  readonly hasOwnService?: boolean;
  /** Nobody has brought its settings yet. */
  readonly isUnseen?: boolean;
  /** Servers that its list has, and the plant does not know. Nothing starts them: they were removed, and their entries left. */
  readonly alsoListed?: readonly ListEntry[];
  /** It reaches nobody: a firewall that lets everything in and nothing out. */
  readonly reachesNobody?: boolean;
}
interface ClassicStandInProgram extends Omit<ClassicProgram, 'clsid' | 'vendor' | 'version' | 'runsAs'> {
  /** Of the server application. */
  readonly id: string;
  readonly name: string;
  readonly progId: string;
  readonly number: number;
  readonly launch?: string;
  readonly access?: string;
  /** As which account it runs, and calls back; absent: as the service’s. */
  readonly runAs?: string;
}

/** Who signs in, and as whom servers run where they don’t run as the same: two machines know an account by name and password. */
export const classicUsers = { reader: 'trend', service: 'opc-service' } as const;

const machine = (id: string, zoneId: string, name: string, address: string, description: string): Machine => ({
  id,
  zoneId,
  name,
  description,
  hostNames: [host(id)],
  addresses: [inBlock(address)],
});
const values = (branch: string, ...names: readonly string[]): readonly ClassicItem[] =>
  names.map((name, index) => ({
    itemId: `${branch}.${name}`,
    type: 'r8',
    at: swinging(100 + 40 * index, 3, 8000 + 900 * index),
  }));

/** Items of a server, with those that it reads of devices. */
const fromDevices = (serverId: string, items: readonly ClassicItem[]): readonly ClassicItem[] => {
  const polled = new Map(polledBy(serverId).map((item) => [item.path, item]));
  return items.map((item) => ({ ...item, polled: polled.get(item.itemId) }));
};

/** Classes and applications of the made-up servers, by their numbers. */
export const clsidOf = (number: number): string =>
  `5d8f0b52-3c1e-4f6a-9a70-2b6c1de9${String(number).padStart(2, '0')}01`;

/** The reader’s SID on every made-up machine. */
const readerSid = 'S-1-5-21-41-41-41-1001';
const administrators = 'O:BAG:BAD:(A;;CCDCLCSWRP;;;BA)';
const administratorsAccess = 'O:BAG:BAD:(A;;CCDCLC;;;BA)';

export const classicStandIns: readonly ClassicStandIn[] = [
  {
    machine: machine('lehr-data', 'cold-end', 'Lehr data', '30.41', 'Classic OPC server of the first annealing lehr'),
    settings: { level: 'packet integrity', isHardened: true },
    alsoListed: [
      {
        clsid: clsidOf(31),
        progId: 'Marrowby.LehrTrial.1',
        name: 'Lehr trial data server',
        categories: [categories['DA 2']],
      },
      {
        clsid: clsidOf(32),
        progId: 'Marrowby.LehrAlarms.1',
        name: 'Lehr alarm server',
        categories: [categories['A&E']],
      },
    ],
    programs: [
      {
        id: 'lehr-data-server',
        name: 'Lehr data server',
        progId: 'Marrowby.LehrData.1',
        number: 1,
        items: fromDevices('lehr-data-server', lehrItems),
        hasItemIo: true,
        launch: `${administrators}(A;;CCLCRP;;;${readerSid})`,
        access: `${administratorsAccess}(A;;CCLC;;;${readerSid})`,
      },
    ],
  },
  {
    machine: machine(
      'furnace-data',
      'hot-end',
      'Furnace data',
      '20.41',
      'Classic OPC servers of the furnace and its ports',
    ),
    settings: { isHardened: true, defaultLaunch: administrators, defaultAccess: signedInAccess },
    programs: [
      {
        // It has no launch permission of its own, and by default administrators alone may.
        id: 'furnace-data-server',
        name: 'Furnace data server',
        progId: 'Marrowby.FurnaceData.1',
        number: 2,
        items: values('Furnace', 'Crown', 'Bottom', 'Level'),
      },
      {
        id: 'port-data-server',
        name: 'Port data server',
        progId: 'Marrowby.PortData.1',
        number: 3,
        items: values('Ports', 'Gas1', 'Gas2', 'Gas3'),
        launch: signedInLaunch,
      },
    ],
  },
  {
    machine: machine('tin-data', 'hot-end', 'Tin bath data', '20.42', 'Classic OPC servers of the tin bath'),
    settings: { defaultLaunch: signedInLaunch, defaultAccess: administratorsAccess },
    programs: [
      {
        // Its access permission is missing behind the default one.
        id: 'tin-data-server',
        name: 'Tin bath data server',
        progId: 'Marrowby.TinData.1',
        number: 4,
        items: values('TinBath', 'Entry', 'Exit', 'Hydrogen'),
      },
      {
        id: 'roller-data-server',
        name: 'Roller data server',
        progId: 'Marrowby.RollerData.1',
        number: 5,
        items: values('Rollers', 'Speed', 'Load'),
        access: signedInAccess,
        blockedPort: 9,
      },
    ],
  },
  {
    machine: machine('crusher-data', 'hot-end', 'Crusher data', '20.43', 'Classic OPC server of the cullet crusher'),
    settings: { defaultLaunch: signedInLaunch, defaultAccess: signedInAccess },
    programs: [
      {
        // The account that it runs as was removed.
        id: 'crusher-data-server',
        name: 'Crusher data server',
        progId: 'Marrowby.CrusherData.1',
        number: 6,
        items: values('Crusher', 'Load'),
        runAs: 'crusher-service',
      },
    ],
  },
  {
    isUnseen: true,
    machine: machine('batch-data', 'batch-house', 'Batch data', '10.41', 'Classic OPC server of the batch house'),
    settings: { defaultLaunch: signedInLaunch, defaultAccess: signedInAccess, isGuestOnly: true },
    programs: [
      {
        id: 'batch-data-server',
        name: 'Batch data server',
        progId: 'Marrowby.BatchData.1',
        number: 7,
        items: values('Batch', 'Sand', 'Soda'),
      },
    ],
  },
  {
    machine: machine(
      'silo-data',
      'batch-house',
      'Silo data',
      '10.42',
      'Classic OPC server of the silos, behind a firewall of its own',
    ),
    settings: { defaultLaunch: 'O:BAG:BAD:(A;;CCDCLCSWRP;;;WD)', defaultAccess: signedInAccess },
    hasOwnService: true,
    reachesNobody: true,
    programs: [
      {
        id: 'silo-data-server',
        name: 'Silo data server',
        progId: 'Marrowby.SiloData.1',
        number: 8,
        items: values('Silos', 'Level1', 'Level2', 'Level3'),
        isFlat: true,
      },
    ],
  },
  {
    machine: machine('cutter-data', 'cold-end', 'Cutter data', '30.42', 'Classic OPC server of the cutting line'),
    settings: {
      defaultLaunch: signedInLaunch,
      defaultAccess: signedInAccess,
      // The machine’s limit lets nobody launch from another machine but administrators.
      launchRestriction: 'O:BAG:BAD:(A;;CCDCSW;;;WD)(A;;CCDCLCSWRP;;;BA)',
    },
    programs: [
      {
        id: 'cutter-data-server',
        name: 'Cutter data server',
        progId: 'Marrowby.CutterData.1',
        number: 9,
        items: values('Cutter', 'Bridge', 'Plates'),
      },
    ],
  },
];

export const appIdOf = (number: number): string =>
  `5d8f0b52-3c1e-4f6a-9a70-2b6c1de9${String(number).padStart(2, '0')}02`;

const clientMachine = machine(
  'trend-station',
  'control-room',
  'Trend station',
  '40.71',
  'Draws what the classic servers have',
);
export const classicMachines: readonly Machine[] = [
  ...classicStandIns.map((standIn) => standIn.machine),
  clientMachine,
];

const trends: ClientApplication = {
  kind: 'client',
  id: 'trend-client',
  machineId: clientMachine.id,
  name: 'Trend display',
  applicationUri: '',
  speaks: 'classic',
  securityPolicies: ['None'],
  securityModes: ['None'],
};

export const classicApplications: readonly (ClientApplication | ServerApplication)[] = [
  ...classicStandIns.flatMap((standIn) =>
    standIn.programs.map(({ id, name }): ServerApplication => ({
      kind: 'server',
      id,
      machineId: standIn.machine.id,
      name,
      applicationUri: '',
      speaks: 'classic',
      ports: [mapperPort],
    })),
  ),
  trends,
];

interface ClassicSketch {
  readonly to: string;
  readonly items: readonly string[];
  readonly level?: CallLevel;
  /** Where the link has another host, or another program, than its server. */
  readonly host?: string;
  readonly program?: string;
  /** It names the class by its CLSID, and needs no server list. */
  readonly byClass?: boolean;
  readonly wrongPassword?: boolean;
  /** To tell links to one server apart. */
  readonly suffix?: string;
}

const sketches: readonly ClassicSketch[] = [
  { to: 'lehr-data-server', items: ['Lehr.Zone1.Temperature', 'Lehr.Zone4.Temperature', 'Lehr.Belt.Speed'] },
  { to: 'lehr-data-server', suffix: 'exhaust', items: ['Lehr.Exhaust.Pressure'] },
  { to: 'lehr-data-server', suffix: 'recipe', items: ['Lehr.Recipe.Name'], program: 'Marrowby.LerhData.1' },
  { to: 'lehr-data-server', suffix: 'belt', items: ['Lehr.Belt.Plates'], host: host('lehr-date') },
  { to: 'lehr-data-server', suffix: 'night', items: ['Lehr.Zone8.Temperature'], wrongPassword: true },
  { to: 'furnace-data-server', items: ['Furnace.Crown', 'Furnace.Level'] },
  { to: 'port-data-server', items: ['Ports.Gas1'], level: 'connect', byClass: true },
  { to: 'tin-data-server', items: ['TinBath.Exit'] },
  { to: 'roller-data-server', items: ['Rollers.Speed'] },
  { to: 'crusher-data-server', items: ['Crusher.Load'] },
  { to: 'batch-data-server', items: ['Batch.Sand'], byClass: true },
  { to: 'silo-data-server', items: ['Silos.Level1', 'Silos.Level2'] },
  { to: 'cutter-data-server', items: ['Cutter.Plates'], byClass: true },
];

const needed = (items: readonly string[]): readonly NeededItem[] =>
  items.map((path) => ({ path, uses: ['read', 'watch'] }));
const idOf = ({ to, suffix }: ClassicSketch): string =>
  `trend--${to.replace(/-server$/, '')}${suffix === undefined ? '' : `-${suffix}`}`;

export const classicLinks: readonly Link[] = sketches.flatMap((sketch): readonly Link[] => {
  const standIn = classicStandIns.find(({ programs }) => programs.some(({ id }) => id === sketch.to));
  const program = standIn?.programs.find(({ id }) => id === sketch.to);
  if (!standIn || !program) return [];
  const place = sketch.host ?? standIn.machine.hostNames[0] ?? '';
  return [
    {
      id: idOf(sketch),
      name: `Trends of ${program.name.replace(/ server$/, '').toLowerCase()}${sketch.suffix === undefined ? '' : `, ${sketch.suffix}`}`,
      clientId: trends.id,
      serverId: sketch.to,
      kind: 'classic',
      endpointUrl: `classic://${place}:${mapperPort}/${sketch.byClass ? `{${clsidOf(program.number)}}` : (sketch.program ?? program.progId)}`,
      pinnedAddress: null,
      chosenEndpoint: null,
      needs: needed(sketch.items),
      identity: { kind: 'user', userName: classicUsers.reader },
      floor: 'any',
      staleAfterMs: 60_000,
      classic: { level: sketch.level ?? 'integrity', updateRateMs: 1000 },
    },
  ];
});

export const wrongClassicPasswords: readonly string[] = sketches.filter(({ wrongPassword }) => wrongPassword).map(idOf);
