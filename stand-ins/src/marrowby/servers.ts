import type { IdentityRule, SecurityMode, SecurityPolicyName, ServerApplication } from '@loyal-hinge/core';
import type { RoleName } from '../access-management.js';
import { inBlock } from './address-block.js';
import { fieldServerId, polledBy } from './field.js';
import type { Polled } from './field.js';
import { host, machines, unknownMachine, uri } from './machines.js';

export interface StandInItem {
  readonly path: string;
  readonly unit: 'degree_celsius' | 'percent' | 'kilogram' | 'metre_per_second' | 'pascal' | 'kilowatt' | 'count';
  readonly mean: number;
  /** How far the value strays from its mean. */
  readonly swing: number;
  /** A value that operators set, and nobody else: it stays as they have written it. */
  readonly isSet?: boolean;
  /** Nobody else sees it, nor the folders that hold nothing else. */
  readonly seenBy?: readonly RoleName[];
  /** The server keeps its history. */
  readonly isRecorded?: boolean;
  /** The server has it from a device, and not from its own. */
  readonly polled?: Polled;
  /** Above this an alarm is active; events come from the folder of the path’s first part. */
  readonly alarmAbove?: number;
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
  /** Those that the library has. */
  readonly policies: readonly Exclude<SecurityPolicyName, `ECC_${string}`>[];
  readonly modes: readonly SecurityMode[];
  readonly anonymous: boolean;
  readonly users: readonly string[];
  /** Those who still have the password that they were given first. */
  readonly firstPasswords?: readonly string[];
  /** Who has which role (Part 18), where it is not as usual. */
  readonly roles?: Readonly<Partial<Record<RoleName, readonly IdentityRule[]>>>;
  /** Host names and days of validity of its certificate, counted from the day on which it is made. */
  readonly certificate: { readonly hosts: readonly string[]; readonly fromDay: number; readonly toDay: number };
  readonly items: readonly StandInItem[];
  /** What lies in its lists from the start. */
  readonly lists: FirstLists;
  /** Whether it speaks push management (Part 12 §7.10). */
  readonly push: boolean;
  /** Whether a change of its lists counts only after a restart. */
  readonly restarts: boolean;
  /** A discovery server tells of these; nobody else does. */
  readonly tellsOf: readonly ListedId[];
  /** It has heard of these on the network. */
  readonly hearsOf: readonly ListedId[];
  /** It says that this one stands in for it when it stops; the plant doesn’t know it. */
  readonly standby?: ListedId;
  /** So many devices of ten values each beside its items, generated. */
  readonly devices?: number;
  /** It takes no more nodes in one request. */
  readonly operationLimit?: number;
  /** It takes no samples more often. */
  readonly leastSamplingMs?: number;
  /** It offers to let those in who have a token of this authority, and lets none in so: a stand-in for a door that others use. */
  readonly tokensOf?: string;
  /** It tells of sessions, sign-ins and writes in audit events. */
  readonly isAuditing?: boolean;
  /** Where no channel secures it, it takes passwords in clear. */
  readonly clearPasswords?: boolean;
}

/** An application’s id, or one of the two authorities. */
export type ListedId = string;
export type CrlName = 'first' | 'current' | 'former';

export interface FirstLists {
  readonly trusted: readonly ListedId[];
  readonly issuers?: readonly ListedId[];
  readonly trustedCrls?: readonly CrlName[];
  readonly issuerCrls?: readonly CrlName[];
  /** Names of user certificates that it trusts. */
  readonly users?: readonly string[];
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
  readonly trusts: readonly ListedId[];
  readonly also?: Omit<FirstLists, 'trusted'>;
  readonly differs?: Partial<StandInServer>;
}

/** The certificates with which links sign in as users. */
export const userCertificates = ['control-room'] as const;

/** The desk from which trust lists are changed: every stand-in that speaks push management lets it in. */
export const deskId = 'engineering-client';
export const deskUser = 'security';

function server({ id, name, items, trusts, also = {}, differs = {} }: ServerSketch): StandInServer {
  const home = [...machines, unknownMachine].find((candidate) => candidate.id === id);
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
    users: ['display', 'collector', 'technician', deskUser],
    certificate: { hosts: [...home.hostNames, ...home.addresses], fromDay: -200, toDay: 1500 },
    items,
    lists: { trusted: (differs.push ?? true) ? [deskId, ...trusts] : trusts, ...also },
    push: true,
    restarts: false,
    tellsOf: [],
    hearsOf: [],
    ...differs,
  };
}

export const standInServers: readonly StandInServer[] = [
  server({
    id: 'furnace',
    name: 'Furnace server',
    // The commissioning laptop was let in “for the test” two years ago.
    trusts: ['line-display-client', 'history-client', 'energy-client', 'commissioning-client'],
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
    // The lost tablet is revoked; this server has only the CRL from before.
    trusts: ['line-display-client', 'history-client', 'maintenance-client', 'lost-tablet-client'],
    also: { issuers: ['works-authority'], issuerCrls: ['first'] },
    items: [
      item('Tin bath/Atmosphere/Hydrogen', 'percent', 5.2, 0.3),
      item('Tin bath/Atmosphere/Pressure', 'pascal', 24, 2),
      item('Tin bath/Entry temperature', 'degree_celsius', 1052, 3),
      item('Tin bath/Exit temperature', 'degree_celsius', 602, 2),
      item('Tin bath/Ribbon width', 'percent', 92, 0.6),
      { ...item('Tin bath/Ribbon width wanted', 'percent', 92, 0.6), isSet: true },
    ],
  }),
  server({
    id: 'lehr',
    name: 'Lehr server',
    trusts: ['line-display-client', 'history-client', 'energy-client', 'maintenance-client', 'old-recorder-client'],
    items: [
      { ...item('Lehr/Zone A/Temperature', 'degree_celsius', 590, 3), isRecorded: true, alarmAbove: 590 },
      item('Lehr/Zone B/Temperature', 'degree_celsius', 520, 3),
      item('Lehr/Zone C/Temperature', 'degree_celsius', 410, 4),
      item('Lehr/Zone D/Temperature', 'degree_celsius', 280, 4),
      item('Lehr/Roller speed', 'metre_per_second', 0.21, 0.01),
      { ...item('Lehr/Roller speed wanted', 'metre_per_second', 0.21, 0.01), isSet: true },
    ],
    // Whoever set the server up has an account there still, with the password that it came with.
    differs: {
      users: ['display', 'collector', 'technician', deskUser, 'commissioning'],
      firstPasswords: ['commissioning'],
      isAuditing: true,
    },
  }),
  server({
    id: 'batch-scales',
    name: 'Batch scales server',
    trusts: ['line-display-client', 'history-client', 'energy-client'],
    also: { users: ['control-room'] },
    items: [
      item('Batch/Sand weight', 'kilogram', 2140, 60),
      item('Batch/Cullet weight', 'kilogram', 610, 40),
      item('Batch/Dolomite weight', 'kilogram', 505, 20),
      item('Batch/Mixer power', 'kilowatt', 74, 8),
    ],
    differs: { restarts: true },
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
    differs: {
      certificate: { hosts: [host('inspection'), inBlock('30.14')], fromDay: -770, toDay: -40 },
      // Commissioning was done without security, and that endpoint was never closed; nobody uses it any more.
      policies: ['None', 'Basic256Sha256', 'Aes256_Sha256_RsaPss'],
      modes: ['None', 'Sign', 'SignAndEncrypt'],
      // There a password would go in clear.
      clearPasswords: true,
    },
  }),
  server({
    id: 'dust-filter',
    name: 'Dust filter server',
    trusts: [],
    items: [item('Filter/Pressure drop', 'pascal', 1150, 80), item('Filter/Fan power', 'kilowatt', 31, 2)],
    differs: { policies: ['None'], modes: ['None'], anonymous: true, users: [], push: false },
  }),
  server({
    id: 'cullet-crusher',
    name: 'Cullet crusher server',
    trusts: ['old-recorder-client'],
    items: [
      item('Crusher/Motor power', 'kilowatt', 45, 9),
      item('Crusher/Bearing temperature', 'degree_celsius', 61, 3),
    ],
    differs: { policies: ['Basic256'], modes: ['SignAndEncrypt'], users: ['recorder'], push: false },
  }),
  server({
    id: 'glass-lab',
    name: 'Glass laboratory server',
    // The authority was renewed under its old name; this server knows only the former one.
    trusts: ['former-authority'],
    also: { trustedCrls: ['former'] },
    items: [item('Laboratory/Density', 'count', 2.498, 0.002), item('Laboratory/Stress', 'percent', 12, 2)],
  }),
  server({
    id: 'cooling-water',
    name: 'Cooling water server',
    // The authority lies in the issuers list, where it gives no trust.
    trusts: [],
    also: { issuers: ['works-authority'], issuerCrls: ['current'] },
    items: [item('Water/Supply temperature', 'degree_celsius', 24, 1), item('Water/Pressure', 'pascal', 410_000, 6000)],
  }),
  server({
    id: 'cullet-sorter',
    name: 'Cullet sorter server',
    // The authority is trusted, and its CRL was forgotten.
    trusts: ['works-authority'],
    items: [
      item('Sorter/Belt speed', 'metre_per_second', 1.2, 0.05),
      item('Sorter/Rejects per minute', 'count', 31, 9),
    ],
    differs: { restarts: true },
  }),
  server({
    id: 'gas-meter',
    name: 'Gas meter server',
    trusts: ['energy-client'],
    items: [item('Gas/Flow', 'count', 2870, 60), item('Gas/Pressure', 'pascal', 300_000, 1500)],
    differs: {
      certificate: { hosts: [host('gas-meter'), inBlock('20.22')], fromDay: -718, toDay: 12.4 },
      standby: 'gas-meter-standby-server',
    },
  }),
  server({
    id: 'directory',
    name: 'Directory server',
    trusts: [],
    items: [item('Directory/Registered servers', 'count', 5, 1)],
    differs: {
      push: false,
      tellsOf: ['furnace-server', 'lehr-server', 'gas-meter-server', 'cutter-server', 'dosing-pump-server'],
      hearsOf: ['crane-server', 'lehr-server'],
    },
  }),
  server({
    id: 'dosing-pump',
    name: 'Dosing pump server',
    trusts: [],
    items: [item('Pump/Dose', 'kilogram', 8.4, 0.3)],
    differs: { push: false },
  }),
  server({
    id: 'recipes',
    name: 'Recipe server',
    trusts: ['line-display-client', 'energy-client'],
    items: [
      item('Recipes/Pull wanted', 'count', 610, 4),
      { ...item('Recipes/Limits/Crown temperature', 'degree_celsius', 1610, 2), seenBy: ['Operator', 'Engineer'] },
      { ...item('Recipes/Formulas/Sand share', 'percent', 58, 0.2), seenBy: ['Engineer'], isSet: true },
    ],
    // A small controller: few nodes in a request, a sample a second, and three kinds of users.
    differs: {
      users: ['display', 'technician', 'process', deskUser],
      roles: {
        Observer: [{ criterion: 'AuthenticatedUser', criteria: '' }],
        Operator: [{ criterion: 'UserName', criteria: 'technician' }],
        Engineer: [{ criterion: 'UserName', criteria: 'process' }],
        SecurityAdmin: [{ criterion: 'UserName', criteria: deskUser }],
      },
      operationLimit: 10,
      leastSamplingMs: 1000,
    },
  }),
  server({
    id: 'archive',
    name: 'Archive server',
    trusts: ['history-client', 'quality-client'],
    also: { issuers: ['works-authority'], issuerCrls: ['current'] },
    items: [item('Archive/Good glass', 'percent', 91, 2)],
    // A hundred thousand nodes, generated.
    differs: { devices: 9090, tokensOf: 'https://sign-in.marrowby.example' },
  }),
  server({
    id: 'crane',
    name: 'Crane server',
    trusts: [],
    items: [item('Crane/Load', 'kilogram', 1800, 400), item('Crane/Position', 'percent', 50, 20)],
    differs: { push: false, users: ['collector'] },
  }),
  server({
    id: fieldServerId.replace(/-server$/, ''),
    name: 'Field data server',
    trusts: ['line-display-client', 'history-client', 'energy-client', 'maintenance-client'],
    // Its values are those of devices, as it reads them.
    items: polledBy(fieldServerId).map((polled) => ({ ...item(polled.path, 'count', 0, 100), polled })),
  }),
];

/** Applications that the plant believes to stand somewhere, and that are no UA servers. */
export const believedServers: readonly ServerApplication[] = [
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

export const weighbridgePage = { address: inBlock('10.12'), port: 4840 };
export const silentPort = { address: inBlock('10.13'), port: 4840 };
/** Beside its silent port this machine has one that speaks: so it is switched on. */
export const siloGaugePort = { address: inBlock('10.13'), port: 4850 };

/** Where the archive stood before, and where it stands: the office’s firewall leads from the one to the other. */
export const formerArchive = {
  address: inBlock('50.99'),
  port: 4840,
  leadsTo: { address: inBlock('50.41'), port: 4840 },
} as const;
