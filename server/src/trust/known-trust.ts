import { endpointUrlParts, judgeEndpointUrl } from '@loyal-hinge/core';
import type { Plant, PlantTrust, Shelf, TrustLink, TrustParty, TrustWay } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { allAssessments } from '../links/store.js';
import type { KeptAssessment } from '../links/store.js';
import { readPlant, readSetting } from '../plant/store.js';
import { allCrls, allLists, allReadings, noLists } from './lists-store.js';
import type { Reading } from './lists-store.js';
import { pushLink } from './push-link.js';
import { allCertificates, allWays, clientsHeld, shownCertificates } from './store.js';
import type { KeptWay } from './store.js';
import { waiversInForce } from './waiver-store.js';

/** Everything that is known of trust in the plant, put together from the database. */
export interface KnownTrust {
  readonly plant: Plant;
  readonly trust: PlantTrust;
  readonly shelf: Shelf;
  readonly readings: ReadonlyMap<string, Reading>;
  readonly ways: ReadonlyMap<string, KeptWay>;
}

export async function knownTrust(db: Queryable): Promise<KnownTrust> {
  const [plant, lists, readings, ways, held, shown, assessments, crlsDemanded, certificates, crls, waivers] =
    await Promise.all([
      readPlant(db),
      allLists(db),
      allReadings(db),
      allWays(db),
      clientsHeld(db),
      shownCertificates(db),
      allAssessments(db),
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
      links: [...plant.links.map((link) => trustLink(link, assessments)), ...pushLinks(plant, ways)],
      crlsDemanded: crlsDemanded === true,
      at: Date.now(),
    },
    shelf: { certificates: new Map(certificates.map((certificate) => [certificate.thumbprint, certificate])), crls },
    readings,
    ways,
  };
}

const emptyKnown = { ...noLists, trusted: [], issuers: [], rejected: [], trustedCrls: [], issuerCrls: [] };

function trustLink(link: Plant['links'][number], assessments: ReadonlyMap<string, KeptAssessment>): TrustLink {
  const steps = assessments.get(link.id)?.body.steps;
  const { flaws, parts } = judgeEndpointUrl(link.endpointUrl);
  return {
    linkId: link.id,
    name: link.name,
    clientId: link.clientId,
    serverId: link.serverId,
    host: flaws.length > 0 ? null : (parts?.host ?? null),
    secured: steps?.find(({ step }) => step === 'server-certificate')?.verdict !== 'not-needed',
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
