import { readRuleSet } from '@loyal-hinge/core';
import type {
  Conduit as CoreConduit,
  PassagePlan,
  PlantService,
  RedundantPlace,
  RuleSet,
  TunnelledWay,
} from '@loyal-hinge/core';
import { asc } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
import { zones } from '../database/schema.js';
import { newestExports } from '../dcom/store.js';
import { askedDevices } from '../field/origins/stated.js';
import type { AskedDevice } from '../field/origins/stated.js';
import { knownTunnels, tunnelledWays } from '../tunnels/known.js';
import type { KnownTunnel } from '../tunnels/known.js';
import { redundantPlaces } from './redundant.js';
import { newestRules, readConduits, readFirewalls, readServices, textOfRules } from './store.js';
import type { AboutRules } from './store.js';

/** All that is known of firewalls, ready to be judged by. */
export interface KnownPassage {
  readonly plan: PassagePlan;
  readonly services: readonly PlantService[];
  /** Devices behind servers, by where their items come from. */
  readonly asked: readonly AskedDevice[];
  /** Those that stand in for a server, as it said last. */
  readonly redundantOf: (serverId: string) => readonly RedundantPlace[];
  readonly about: ReadonlyMap<string, AboutRules>;
  readonly rulesOf: (firewallId: string) => RuleSet | null;
  /** What machines’ exports say of the ports of their objects. */
  readonly objectPorts: (machineId: string) => readonly string[] | null;
  /** The tunnel that a link goes through; null: it goes straight. */
  readonly throughOf: (linkId: string) => TunnelledWay | null;
}

/** Rules that were read before, by their row: they never change, and reading large ones takes a while. */
const readBefore = new Map<number, RuleSet>();
const mostRead = 100;

async function readOf(db: Queryable, rulesId: number): Promise<RuleSet | null> {
  const known = readBefore.get(rulesId);
  if (known) return known;
  const text = await textOfRules(db, rulesId);
  const read = text === null ? null : readRuleSet(text, 'auto');
  if (!read?.ok) return null;
  for (const [oldest] of readBefore) {
    if (readBefore.size < mostRead) break;
    readBefore.delete(oldest);
  }
  readBefore.set(rulesId, read.ruleSet);
  return read.ruleSet;
}

/** @param tunnels where they are known already */
export async function knownPassage(
  db: Queryable,
  tunnels: readonly KnownTunnel[] | Promise<readonly KnownTunnel[]> = knownTunnels(db),
): Promise<KnownPassage> {
  const [devices, conduits, services, asked, redundant, zoneRows, newest, throughTunnels] = await Promise.all([
    readFirewalls(db),
    readConduits(db),
    readServices(db),
    askedDevices(db),
    redundantPlaces(db),
    db.select({ id: zones.id, name: zones.name }).from(zones).orderBy(asc(zones.order), asc(zones.id)),
    newestRules(db),
    tunnels,
  ]);
  const sets = new Map<string, RuleSet>();
  for (const { firewallId, id } of newest) {
    const read = await readOf(db, id);
    if (read) sets.set(firewallId, read);
  }
  const through = tunnelledWays(throughTunnels);
  const exports = devices.length === 0 ? [] : await newestExports(db);
  const ports = new Map(exports.map(({ machineId, settings }) => [machineId, settings.ports]));
  return {
    plan: { devices, zones: zoneRows, conduits: conduits.map(conduitOf) },
    services,
    asked,
    redundantOf: (serverId) => redundant.get(serverId) ?? [],
    about: new Map(newest.map((each) => [each.firewallId, each])),
    rulesOf: (firewallId) => sets.get(firewallId) ?? null,
    objectPorts: (machineId) => ports.get(machineId) ?? null,
    throughOf: (linkId) => through.get(linkId) ?? null,
  };
}

const conduitOf = ({ firewallIds, ...conduit }: Awaited<ReturnType<typeof readConduits>>[number]): CoreConduit => ({
  ...conduit,
  deviceIds: firewallIds,
});
