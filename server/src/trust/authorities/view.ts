import { commonName, counted, decodeBase64, isOver, successionOf, writePem } from '@loyal-hinge/core';
import type { Certificate, Crl } from '@loyal-hinge/core';
import type { AuthorityView } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';
import { notFound } from '../../http/problems.js';
import { knownTrust } from '../known/known-trust.js';
import type { KnownTrust } from '../known/known-trust.js';
import { nodeVerifier } from '../../certificates/node-signatures.js';
import { dayMs } from './given.js';
import { allAuthorities, issuedBy, openRequests } from './store.js';
import type { KeptAuthority } from './store.js';

const warnCrlDays = 14;

/** All authorities, the one with which plans reckon first. */
export async function authorityViews(db: Database): Promise<AuthorityView[]> {
  return (await viewsOf(db, () => true)).sort(currentThenNewest);
}

export async function authorityView(db: Database, thumbprint: string): Promise<AuthorityView> {
  const [view] = await viewsOf(db, (kept) => kept.thumbprint === thumbprint);
  if (!view) throw notFound('authority', thumbprint);
  return view;
}

async function viewsOf(db: Database, isWanted: (kept: KeptAuthority) => boolean): Promise<AuthorityView[]> {
  const [rows, known] = await Promise.all([allAuthorities(db), knownTrust(db)]);
  const current = rows.find(({ isCurrent }) => isCurrent)?.thumbprint ?? null;
  const views = await Promise.all(rows.filter(isWanted).map((row) => viewOf(db, known, row, current)));
  return views.flatMap((view) => view ?? []);
}

const currentThenNewest = (left: AuthorityView, right: AuthorityView): number =>
  Number(right.isCurrent) - Number(left.isCurrent) ||
  Date.parse(right.certificate.notBefore) - Date.parse(left.certificate.notBefore);

/** An authority with its CRL, what it signed, and what is signed for elsewhere; null where its certificate is gone. */
async function viewOf(
  db: Database,
  known: KnownTrust,
  kept: KeptAuthority,
  current: string | null,
): Promise<AuthorityView | null> {
  const certificate = known.shelf.certificates.get(kept.thumbprint);
  if (!certificate) return null;
  const [rows, requests] = await Promise.all([issuedBy(db, kept.thumbprint), openRequests(db, kept.thumbprint)]);
  const { crls } = known.shelf;
  const crl = crls.find(({ id }) => id === kept.crlId) ?? newestOf(crls, certificate);
  const names = new Map([...known.applications.values()].map(({ id, name }) => [id, name] as const));
  const nameOf = (id: string): string => names.get(id) ?? id;
  const daysLeft = crl?.nextUpdate ? Math.floor((crl.nextUpdate - Date.now()) / dayMs) : null;
  const after = current === null || kept.isCurrent ? undefined : known.shelf.certificates.get(current);
  return {
    thumbprint: kept.thumbprint,
    name: commonName(certificate.subject.text),
    certificate: certificate.summary as AuthorityView['certificate'],
    isCurrent: kept.isCurrent,
    keyKept: kept.keyKind !== null,
    mayRenew: kept.isCurrent && kept.keyKind !== null && certificate.isSelfIssued,
    succession: after ? await successionView(known, certificate, after, nameOf) : null,
    crl: crl
      ? {
          number: numberOf(crl),
          thisUpdate: new Date(crl.thisUpdate).toISOString(),
          nextUpdate: crl.nextUpdate === null ? null : new Date(crl.nextUpdate).toISOString(),
          warning: crlWarning(daysLeft, kept.keyKind !== null),
        }
      : null,
    issued: rows.map((row) => ({
      serialNumber: row.serialNumber,
      thumbprint: row.thumbprint,
      application: row.applicationId === null ? null : nameOf(row.applicationId),
      issuedAt: row.issuedAt === null ? null : new Date(row.issuedAt).toISOString(),
      revokedAt: row.revokedAt === null ? null : new Date(row.revokedAt).toISOString(),
      reason: row.reason,
    })),
    requests: requests.map(({ id, applicationId, request, madeBy, madeAt }) => ({
      id,
      application: nameOf(applicationId),
      requestPem: writePem('CERTIFICATE REQUEST', decodeBase64(request) ?? new Uint8Array()),
      madeBy,
      madeAt: new Date(madeAt).toISOString(),
    })),
  };
}

/** An authority that is kept elsewhere tells of its CRLs only through those that were brought here. */
function newestOf(crls: readonly Crl[], authority: Certificate): Crl | null {
  const own = crls.filter(
    ({ issuer, authorityKeyId }) =>
      issuer.equals(authority.subject) &&
      (authorityKeyId === null || authorityKeyId === authority.extensions.subjectKeyId),
  );
  return own.reduce<Crl | null>((best, crl) => (best && best.thisUpdate >= crl.thisUpdate ? best : crl), null);
}

/** How far the plant has moved to the authority that plans reckon with now. */
async function successionView(
  { trust, shelf }: KnownTrust,
  before: Certificate,
  after: Certificate,
  nameOf: (id: string) => string,
): Promise<NonNullable<AuthorityView['succession']>> {
  const told = await successionOf(trust, shelf, before, after, nodeVerifier);
  const { trustOnlyBefore, trustBoth, showBefore } = told;
  const namesOf = (ids: readonly string[]): string[] => ids.map(nameOf);
  return {
    after: after.thumbprint,
    afterName: commonName(after.subject.text),
    afterSince: new Date(after.notBefore).toISOString(),
    trustOnlyBefore: namesOf(trustOnlyBefore),
    trustBoth: namesOf(trustBoth),
    showBefore: namesOf(showBefore),
    isOver: isOver(told),
  };
}

const numberOf = ({ number }: Crl): number => Number.parseInt(number ?? '0', 16);

function crlWarning(daysLeft: number | null, isKeyHere: boolean): string | null {
  if (daysLeft === null || daysLeft > warnCrlDays) return null;
  return daysLeft < 0
    ? 'Its next update is past: whoever requires CRLs accepts nothing any more that this authority signed.'
    : `Its next update is due in ${counted(daysLeft, 'day')}. ${isKeyHere ? 'Issue a new one, and give it to all lists.' : 'Have a new one issued where its key is kept, and give it to all lists.'}`;
}
