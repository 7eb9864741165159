import type { Link, LinkIdentity, NeededItem, SecurityFloor } from '@loyal-hinge/core';
import { standInClients } from './clients.js';
import { fieldServerId } from './field.js';
import { domain, host, uri } from './machines.js';
import { believedServers, formerArchive, standInServers } from './servers.js';

const watched = (...paths: readonly string[]): readonly NeededItem[] =>
  paths.map((path) => ({ path, uses: ['read', 'watch'] }));

interface LinkSketch {
  readonly from: string;
  readonly to: string;
  readonly url: string;
  /** A user name, or a user certificate of the plant; null: anonymous. */
  readonly user: string | { readonly certificate: string } | null;
  readonly needs: readonly NeededItem[];
  readonly floor?: SecurityFloor;
  /** The client dials this, whatever the name says. */
  readonly pinned?: string;
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
    needs: [
      ...watched('Lehr/Zone D/Temperature', 'Lehr/Roller speed'),
      { path: 'Lehr/Zone A/Temperature', uses: ['read', 'watch', 'history'] },
      { path: 'Lehr', uses: ['alarms'] },
    ],
  },
  {
    from: 'line-display-client',
    to: 'lehr-server',
    url: at('lehr'),
    user: 'technician',
    needs: [{ path: 'Lehr/Roller speed wanted', uses: ['read', 'watch', 'write'] }],
  },
  {
    // It must write, and its account may only read.
    from: 'maintenance-client',
    to: 'tin-bath-server',
    url: at('tin-bath'),
    user: 'display',
    needs: [{ path: 'Tin bath/Ribbon width wanted', uses: ['read', 'write'] }],
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
    user: { certificate: 'control-room' },
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
  {
    from: 'quality-client',
    to: 'glass-lab-server',
    url: at('glass-lab'),
    user: 'collector',
    needs: watched('Laboratory/Density'),
  },
  {
    from: 'quality-client',
    to: 'cooling-water-server',
    url: at('cooling-water'),
    user: 'collector',
    needs: watched('Water/Supply temperature'),
  },
  {
    from: 'quality-client',
    to: 'cullet-sorter-server',
    url: at('cullet-sorter'),
    user: 'collector',
    needs: watched('Sorter/Rejects per minute'),
  },
  { from: 'quality-client', to: 'crane-server', url: at('crane'), user: 'collector', needs: watched('Crane/Load') },
  {
    // It may far more than the board needs.
    from: 'energy-client',
    to: 'recipes-server',
    url: at('recipes'),
    user: 'process',
    needs: watched('Recipes/Pull wanted', 'Recipes/Limits/Crown temperature'),
  },
  {
    // What it needs is there, and hidden from its account.
    from: 'line-display-client',
    to: 'recipes-server',
    url: at('recipes'),
    user: 'display',
    needs: watched('Recipes/Limits/Crown temperature'),
  },
  {
    from: 'history-client',
    to: 'archive-server',
    url: at('archive'),
    user: 'collector',
    needs: watched('Archive/Good glass'),
  },
  {
    // By the address that it had before: the office’s firewall translates it.
    from: 'quality-client',
    to: 'archive-server',
    url: at('archive'),
    pinned: formerArchive.address,
    user: 'collector',
    needs: watched('Archive/Good glass'),
  },
  {
    from: 'energy-client',
    to: 'gas-meter-server',
    url: at('gas-meter'),
    user: 'collector',
    needs: watched('Gas/Flow'),
  },
  {
    from: 'history-client',
    to: fieldServerId,
    url: at('field-data'),
    user: 'collector',
    needs: watched('Weigher/Sand', 'Weigher/Soda ash'),
  },
  {
    // The server reads other registers than those that are meant, or reads them otherwise.
    from: 'energy-client',
    to: fieldServerId,
    url: at('field-data'),
    user: 'collector',
    needs: watched('Lehr drive/Speed', 'Water/Flow'),
  },
  {
    // The devices do not answer, each for a reason of its own.
    from: 'line-display-client',
    to: fieldServerId,
    url: at('field-data'),
    user: 'display',
    needs: watched('Burner/Air', 'Cullet/Weight', 'Stack/Draught'),
  },
  {
    // Its sensor is stuck.
    from: 'maintenance-client',
    to: fieldServerId,
    url: at('field-data'),
    user: 'technician',
    needs: watched('Bath/Level'),
  },
];

const linkId = ({ from, to }: LinkSketch): string => `${from.replace('-client', '')}--${to.replace('-server', '')}`;

function nameOf(applicationId: string): string {
  const known = [...standInClients, ...standInServers, ...believedServers].find(({ id }) => id === applicationId);
  return known?.name.replace(/ server$/, '') ?? applicationId;
}

function identityOf(user: LinkSketch['user']): LinkIdentity {
  if (user === null) return { kind: 'anonymous' };
  return typeof user === 'string' ? { kind: 'user', userName: user } : { kind: 'certificate', ...user };
}

export const links: readonly Link[] = sketches.map((sketch) => ({
  id: linkId(sketch),
  name: `${nameOf(sketch.from)} to ${nameOf(sketch.to)}`,
  clientId: sketch.from,
  serverId: sketch.to,
  endpointUrl: sketch.url,
  pinnedAddress: sketch.pinned ?? null,
  chosenEndpoint: null,
  needs: sketch.needs,
  identity: identityOf(sketch.user),
  floor: sketch.floor ?? 'signed',
  kind: 'ua',
  staleAfterMs: 60_000,
}));

export const wrongPasswordLinks: readonly string[] = sketches.filter((sketch) => sketch.wrongPassword).map(linkId);

export const applicationUriOf = (applicationId: string): string => uri(applicationId);
