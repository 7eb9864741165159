import { PlantJudge, commonName, counted, emptyLists, trustGrid, trustState } from '@loyal-hinge/core';
import type { TrustParty, Zone } from '@loyal-hinge/core';
import type { TrustOverview, TrustPartyRow } from '@loyal-hinge/contract';
import type { KnownTrust } from '../known/known-trust.js';
import { nodeVerifier } from '../../certificates/node-signatures.js';
import { isPushLinkId } from '../lists/push-link.js';
import { planView } from './plans.js';

/** The trust grid of the whole plant, with its finding. */
export async function overviewOf(known: KnownTrust, reading: ReadonlySet<string>): Promise<TrustOverview> {
  const [grid, revoked, headline] = await Promise.all([
    trustGrid(known.trust, nodeVerifier),
    revokedIn(known),
    headlineOf(known),
  ]);
  return {
    headline,
    parties: partyRows(known, reading),
    columns: grid.columns.map(({ thumbprint, certificate, shownBy }) => ({
      thumbprint,
      name: commonName(certificate.subject.text),
      subject: certificate.subject.text,
      isAuthority: certificate.isAuthority,
      notAfter: ofMs(certificate.notAfter),
      shownBy: [...shownBy],
      revoked: revoked.has(thumbprint),
    })),
    cells: grid.cells.map((cell) => ({ ...cell, linkIds: [...cell.linkIds] })),
    links: Object.fromEntries(known.trust.links.map(({ linkId, name }) => [linkId, name])),
  };
}

async function headlineOf(known: KnownTrust): Promise<string> {
  const { trust } = known;
  const verdicts = await new PlantJudge(trust, nodeVerifier).needs(trust);
  // The product’s own ways to the servers are no links of the plant.
  const states = trust.links
    .filter(({ linkId }) => !isPushLinkId(linkId))
    .map(({ linkId }) => trustState(verdicts.filter(({ need }) => need.link.linkId === linkId)).state);
  if (states.length === 0) return 'There is no link yet, so no trust is needed.';
  const refused = states.filter((state) => state === 'refused').length;
  const unknown = states.filter((state) => state === 'unknown').length;
  const unread = trust.parties.filter(({ lists, way }) => lists === null && way !== 'unknown').length;
  const plan = await planView(known, 'direct', null);
  const idle = plan.changes.filter(({ change }) => change.kind === 'unlist-certificate').length;
  const parts = [
    refused === 0
      ? unknown === 0
        ? 'No link stops at trust'
        : `No link is known to stop at trust; of ${counted(unknown, 'link')} it is not known`
      : `${counted(refused, 'link')} ${refused === 1 ? 'stops' : 'stop'} at trust`,
    ...(idle > 0 ? [`${counted(idle, 'trusted certificate')} ${idle === 1 ? 'serves' : 'serve'} no link`] : []),
    ...(unread > 0 ? [`the lists of ${counted(unread, 'application')} have not been read yet`] : []),
  ];
  return `${parts.join('; ')}.`;
}

/** The applications, as rows in the order of their zones: how their lists are known and changed. */
export function partyRows({ plant, trust, readings }: KnownTrust, reading: ReadonlySet<string>): TrustPartyRow[] {
  const zones = new Map(plant.zones.map((zone) => [zone.id, zone]));
  const zoneOf = new Map(plant.machines.map(({ id, zoneId }) => [id, zones.get(zoneId)]));
  const applications = new Map(plant.applications.map((application) => [application.id, application]));
  const zoneOfParty = ({ applicationId }: TrustParty): Zone | undefined =>
    zoneOf.get(applications.get(applicationId)?.machineId ?? '');
  const inOrder = [...trust.parties].sort(
    (left, right) =>
      (zoneOfParty(left)?.order ?? 0) - (zoneOfParty(right)?.order ?? 0) || left.name.localeCompare(right.name),
  );
  return inOrder.map((party) => {
    const { applicationId, name, certificate, way, restarts, lists } = party;
    const application = applications.get(applicationId);
    const newest = readings.get(applicationId);
    return {
      applicationId,
      name,
      kind: application?.kind ?? 'server',
      zone: zoneOfParty(party)?.name ?? '',
      certificate: certificate?.thumbprint ?? null,
      way,
      restarts,
      readAt: newest?.readAt ? ofMs(Date.parse(newest.readAt)) : null,
      fault: newest?.fault ?? null,
      trusted: lists?.trusted.length ?? 0,
      issuers: lists?.issuers.length ?? 0,
      crls: lists ? lists.trustedCrls.length + lists.issuerCrls.length : 0,
      rejected: lists?.rejected.length ?? 0,
      reading: reading.has(applicationId),
    };
  });
}

/** Certificates that a CRL known anywhere in the plant revokes, whether or not their holders have it. */
async function revokedIn({ trust, shelf }: KnownTrust): Promise<ReadonlySet<string>> {
  const certificates = [...shelf.certificates.values()];
  const all = { ...emptyLists, issuers: certificates.filter(({ isAuthority }) => isAuthority), issuerCrls: shelf.crls };
  const judge = new PlantJudge(trust, nodeVerifier);
  const revoked = new Set<string>();
  for (const certificate of certificates) {
    const { findings } = await judge.certificate(all, certificate, null, null);
    if (findings[10]?.some(({ kind }) => kind === 'revoked')) revoked.add(certificate.thumbprint);
  }
  return revoked;
}

const ofMs = (ms: number): string => new Date(ms).toISOString();
