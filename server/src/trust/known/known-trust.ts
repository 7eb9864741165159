import { endpointUrlParts, judgeEndpointUrl, stepPosition } from '@loyal-hinge/core';
import type { Plant, PlantTrust, Shelf, TrustLink, TrustParty, TrustWay, Verdict } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import { allVerdicts } from '../../facts/store.js';
import { readPlant } from '../../plant/store.js';
import { readSetting } from '../../database/settings.js';
import { allCrls } from '../../certificates/crls.js';
import { allLists, noLists } from '../lists/store.js';
import { allReadings } from '../lists/readings.js';
import type { Reading } from '../lists/readings.js';
import { pushLink } from '../lists/push-link.js';
import { allCertificates, clientsHeld, shownCertificates } from '../../certificates/store.js';
import { allWays } from '../lists/ways.js';
import type { KeptWay } from '../lists/ways.js';
import { waiversInForce } from '../waivers/store.js';

/** Everything that is known of trust in the plant, put together from the database. */
export interface KnownTrust {
  readonly plant: Plant;
  readonly trust: PlantTrust;
  readonly shelf: Shelf;
  readonly readings: ReadonlyMap<string, Reading>;
  readonly ways: ReadonlyMap<string, KeptWay>;
}

export async function knownTrust(db: Queryable): Promise<KnownTrust> {
  const [plant, lists, readings, ways, held, shown, verdicts, crlsDemanded, certificates, crls, waivers] =
    await Promise.all([
      readPlant(db),
      allLists(db),
      allReadings(db),
      allWays(db),
      clientsHeld(db),
      shownCertificates(db),
      allVerdicts(db),
      readSetting(db, 'crlsDemanded'),
      allCertificates(db),
      allCrls(db),
      waiversInForce(db),
    ]);
  const wayOf = (id: string): TrustWay => (held.has(id) ? 'held' : (ways.get(id)?.way ?? 'unknown'));
  const parties = plant.applications.map((application): TrustParty => {
    const way = wayOf(application.id);
    const isKnown = way === 'held' || (readings.get(application.id)?.readAt ?? null) !== null;
    return {
      applicationId: application.id,
      name: application.name,
      applicationUri: application.applicationUri,
      certificate: shown.get(application.id)?.[0] ?? null,
      lists: isKnown ? (lists.get(application.id) ?? emptyKnown) : null,
      way,
      restarts: ways.get(application.id)?.restarts ?? false,
      waivers: waivers.get(application.id) ?? [],
    };
  });
  return {
    plant,
    trust: {
      parties,
      links: [...plant.links.map((link) => trustLink(link, verdicts)), ...pushLinks(plant, ways)],
      crlsDemanded: crlsDemanded === true,
      at: Date.now(),
    },
    shelf: { certificates: new Map(certificates.map((certificate) => [certificate.thumbprint, certificate])), crls },
    readings,
    ways,
  };
}

const emptyKnown = { ...noLists, trusted: [], issuers: [], rejected: [], trustedCrls: [], issuerCrls: [] };

function trustLink(link: Plant['links'][number], verdicts: ReadonlyMap<string, readonly Verdict[]>): TrustLink {
  const ofCertificate = verdicts.get(link.id)?.[stepPosition(link.kind, 'server-certificate')];
  const { flaws, parts } = judgeEndpointUrl(link.endpointUrl);
  return {
    linkId: link.id,
    name: link.name,
    clientId: link.clientId,
    serverId: link.serverId,
    host: flaws.length > 0 ? null : (parts?.host ?? null),
    secured: ofCertificate !== 'not-needed',
  };
}

/** The product’s own access is a need like any other: a plan must not cut it off. */
function pushLinks(plant: Plant, ways: ReadonlyMap<string, KeptWay>): readonly TrustLink[] {
  return plant.applications.flatMap(({ id, name }) => {
    const way = ways.get(id);
    const link = way ? pushLink(way, name) : null;
    if (!link) return [];
    const { id: linkId, clientId, serverId, endpointUrl } = link;
    const host = endpointUrlParts(endpointUrl)?.host ?? null;
    return [{ linkId, name: link.name, clientId, serverId, host, secured: true }];
  });
}
