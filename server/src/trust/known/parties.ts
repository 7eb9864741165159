import type { Application, TrustParty, TrustWay } from '@loyal-hinge/core';
import { clientsHeld, shownCertificates } from '../../certificates/store.js';
import type { Queryable } from '../../database/database.js';
import { readUaApplications } from '../../plant/part.js';
import { allReadings } from '../lists/readings.js';
import type { Reading } from '../lists/readings.js';
import { allLists, noLists } from '../lists/store.js';
import { allWays } from '../lists/ways.js';
import type { KeptWay } from '../lists/ways.js';
import { waiversInForce } from '../waivers/store.js';

export interface ReadParties {
  readonly applications: ReadonlyMap<string, Application>;
  readonly parties: ReadonlyMap<string, TrustParty>;
  readonly readings: ReadonlyMap<string, Reading>;
  readonly ways: ReadonlyMap<string, KeptWay>;
}

/** Some applications, or all, as those that show certificates and trust others. */
export async function readParties(db: Queryable, applicationIds?: readonly string[]): Promise<ReadParties> {
  const [applications, lists, readings, ways, held, shown, waivers] = await Promise.all([
    readUaApplications(db, applicationIds),
    allLists(db, applicationIds),
    allReadings(db, applicationIds),
    allWays(db, applicationIds),
    clientsHeld(db, applicationIds),
    shownCertificates(db, applicationIds),
    waiversInForce(db, applicationIds),
  ]);
  const parties = new Map<string, TrustParty>();
  for (const { id, name, applicationUri } of applications) {
    const way: TrustWay = held.has(id) ? 'held' : (ways.get(id)?.way ?? 'unknown');
    const isKnown = way === 'held' || (readings.get(id)?.readAt ?? null) !== null;
    parties.set(id, {
      applicationId: id,
      name,
      applicationUri,
      certificate: shown.get(id)?.[0] ?? null,
      lists: isKnown ? (lists.get(id) ?? emptyKnown) : null,
      way,
      restarts: ways.get(id)?.restarts ?? false,
      waivers: waivers.get(id) ?? [],
    });
  }
  return { applications: new Map(applications.map((one) => [one.id, one])), parties, readings, ways };
}

const emptyKnown = { ...noLists, trusted: [], issuers: [], rejected: [], trustedCrls: [], issuerCrls: [] };
