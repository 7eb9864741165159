import type { ClientApplication, SecurityPolicyName } from '@loyal-hinge/core';
import { host, machines, uri } from './machines.js';
import { standInServers } from './servers.js';
import type { FirstLists } from './servers.js';

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
  client('quality-client', 'quality', 'Quality board'),
  client('engineering-client', 'engineering', 'Security desk', { securityModes: ['SignAndEncrypt'] }),
];

/** Applications that no longer stand anywhere, and whose certificates still lie in lists. */
export const formerApplications = [
  {
    id: 'commissioning-client',
    commonName: 'Commissioning laptop (test)',
    hosts: [host('commissioning')],
    fromDay: -740,
    toDay: 2900,
  },
  { id: 'lost-tablet-client', commonName: 'Shift tablet', hosts: [host('tablet')], fromDay: -290, toDay: 800 },
] as const;

/** Whose certificates the plant’s authority signed; all others signed their own. */
export const signedByAuthority: readonly string[] = [
  'quality-client',
  'lost-tablet-client',
  'glass-lab-server',
  'cooling-water-server',
  'cullet-sorter-server',
  'gas-meter-server',
];

export const hostsOfClient = (machineId: string): readonly string[] =>
  machines.find((machine) => machine.id === machineId)?.hostNames ?? [];

/** What lies in the clients’ lists from the start. */
export const clientLists: Readonly<Record<string, FirstLists>> = {
  'line-display-client': {
    trusted: [
      'furnace-server',
      'tin-bath-server',
      'batch-scales-server',
      'cutter-server',
      'lehr-server',
      'stacker-server',
      'recipes-server',
      'field-data-server',
    ],
  },
  'history-client': {
    trusted: [
      'furnace-server',
      'lehr-server',
      'batch-scales-server',
      'cutter-server',
      'inspection-server',
      'archive-server',
      'field-data-server',
    ],
  },
  'energy-client': {
    trusted: [
      'furnace-server',
      'lehr-server',
      'batch-scales-server',
      'stacker-server',
      'recipes-server',
      'field-data-server',
      'works-authority',
    ],
    trustedCrls: ['current'],
  },
  'maintenance-client': { trusted: ['furnace-server', 'lehr-server', 'tin-bath-server', 'field-data-server'] },
  'old-recorder-client': { trusted: ['lehr-server', 'cullet-crusher-server'] },
  'quality-client': { trusted: ['works-authority', 'crane-server', 'archive-server'], trustedCrls: ['current'] },
  'engineering-client': {
    trusted: [
      ...standInServers.filter(({ id, push }) => push && !signedByAuthority.includes(id)).map(({ id }) => id),
      'works-authority',
    ],
    trustedCrls: ['current'],
  },
};
