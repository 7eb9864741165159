import {
  PlantJudge,
  commonName,
  crlEntryOf,
  emptyLists,
  lintCertificate,
  trustNeeds,
  writePem,
} from '@loyal-hinge/core';
import type { Certificate, JudgedTrust, TrustParty } from '@loyal-hinge/core';
import type { CertificatePage } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';
import { notFound } from '../../http/problems.js';
import { keeperOf } from '../known/keeper.js';
import type { KnownTrust } from '../known/known-trust.js';
import { nodeVerifier } from '../../certificates/node-signatures.js';
import { allEntries } from '../lists/store.js';
import { findCertificate, shownBy } from '../../certificates/store.js';
import { unusualAbout } from '../../certificates/unusual.js';
import { waiverViews } from '../waivers/waivers.js';

const ofMs = (ms: number): string => new Date(ms).toISOString();

/** Everything that the product knows about one certificate. */
export async function certificatePage(db: Database, thumbprint: string): Promise<CertificatePage> {
  const found = await findCertificate(db, thumbprint);
  if (!found) throw notFound('certificate', thumbprint);
  const { certificate, summary, der, firstSeen } = found;
  const [{ known, judged }, holders, entries] = await Promise.all([
    keeperOf(db).judgedNow(),
    shownBy(db, thumbprint),
    allEntries(db, thumbprint),
  ]);
  const nameOf = (id: string): string => known.applications.get(id)?.name ?? id;
  const { chain, missingIssuer, revoked } = await chainOf(known, certificate);
  return {
    certificate: summary as CertificatePage['certificate'],
    pem: writePem('CERTIFICATE', der),
    firstSeen,
    unusual: [...unusualAbout(summary, new Date().toISOString())],
    lint: certificate.isAuthority ? null : [...lintCertificate(certificate)],
    chain,
    missingIssuer,
    revoked,
    shownBy: holders.map(({ applicationId, now }) => ({ applicationId, name: nameOf(applicationId), now })),
    lies: entries.map(({ applicationId, list, since }) => ({
      applicationId,
      name: nameOf(applicationId),
      list,
      since: ofMs(Date.parse(since)),
    })),
    links: await linksOn(judged, certificate),
    meets: meetersOf(known, certificate),
    waivers: await waiverViews(db, thumbprint, nameOf),
    relatives: relativesOf(known, certificate),
  };
}

async function chainOf(
  { trust, shelf }: KnownTrust,
  certificate: Certificate,
): Promise<Pick<CertificatePage, 'chain' | 'missingIssuer' | 'revoked'>> {
  const authorities = [...shelf.certificates.values()].filter(({ isAuthority }) => isAuthority);
  const all = { ...emptyLists, issuers: authorities, issuerCrls: shelf.crls };
  const { path, findings } = await new PlantJudge(trust, nodeVerifier).certificate(all, certificate, null, null);
  const problems = findings.flatMap((step) => step ?? []);
  const missing = problems.find(({ kind }) => kind === 'chain-incomplete');
  const revoked = problems.find(({ kind }) => kind === 'revoked');
  const reason = shelf.crls
    .map((crl) => crlEntryOf(crl, certificate.issuer, certificate.serialNumber)?.reason)
    .find((said) => said !== undefined);
  return {
    chain: path.map((one) => ({
      thumbprint: one.thumbprint,
      name: commonName(one.subject.text),
      notAfter: ofMs(one.notAfter),
      isAuthority: one.isAuthority,
      selfIssued: one.isSelfIssued,
    })),
    missingIssuer: missing?.kind === 'chain-incomplete' ? missing.missingIssuer : null,
    revoked: revoked?.kind === 'revoked' ? { since: revoked.since, reason: reason ?? 'unspecified' } : null,
  };
}

/** Links that hang on it today: it stands in a chain by which one end accepts the other. */
async function linksOn({ plant, needsOf }: JudgedTrust, certificate: Certificate): Promise<CertificatePage['links']> {
  const links = new Map<string, string>();
  for (const holder of plant.parties) {
    if (!mayAccept(holder, certificate)) continue;
    for (const verdict of await needsOf(holder))
      if (verdict.result !== 'unknown' && verdict.judgement.path.some((one) => one.is(certificate)))
        links.set(verdict.need.link.linkId, verdict.need.link.name);
  }
  return [...links].map(([linkId, name]) => ({ linkId, name }));
}

/** Whether a chain that an application accepts may hold a certificate: it lies in its lists, or is shown to it. */
const mayAccept = ({ lists }: TrustParty, certificate: Certificate): boolean =>
  lists !== null &&
  (!certificate.isAuthority || [...lists.trusted, ...lists.issuers].some((one) => one.is(certificate)));

/** Applications that validate it for a link: each may pass over a step. */
function meetersOf({ trust }: KnownTrust, certificate: Certificate): CertificatePage['meets'] {
  const holders = trustNeeds(trust).flatMap(({ holder, shown }) =>
    shown.certificate?.is(certificate) ? [[holder.applicationId, holder.name] as const] : [],
  );
  return [...new Map(holders)].map(([applicationId, name]) => ({ applicationId, name }));
}

function relativesOf({ shelf }: KnownTrust, certificate: Certificate): CertificatePage['relatives'] {
  const uris = certificate.summary.applicationUris;
  const isRelative = (other: Certificate): boolean =>
    !other.is(certificate) &&
    (certificate.isAuthority
      ? other.isAuthority && other.subject.equals(certificate.subject)
      : other.summary.applicationUris.some((uri) => uris.includes(uri)));
  return [...shelf.certificates.values()]
    .filter(isRelative)
    .sort((left, right) => left.notBefore - right.notBefore)
    .map((other) => ({
      thumbprint: other.thumbprint,
      name: commonName(other.subject.text),
      notBefore: ofMs(other.notBefore),
      notAfter: ofMs(other.notAfter),
      is: other.notBefore < certificate.notBefore ? 'before' : 'after',
    }));
}
