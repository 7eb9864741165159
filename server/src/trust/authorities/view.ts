import { commonName, counted, decodeBase64, writePem } from '@loyal-hinge/core';
import type { AuthorityView } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';
import type { Certificate, Crl } from '@loyal-hinge/core';
import { readPlant } from '../../plant/store.js';
import { allCrls } from '../lists-store.js';
import { findCertificate } from '../store.js';
import { issuedBy, openRequests } from './store.js';
import type { KeptAuthority } from './store.js';

const dayMs = 86_400_000;
const warnCrlDays = 14;

/** An authority with its CRL, what it signed, and what is signed for elsewhere; null where its certificate is gone. */
export async function authorityView(db: Database, kept: KeptAuthority): Promise<AuthorityView | null> {
  const found = await findCertificate(db, kept.thumbprint);
  if (!found) return null;
  const [rows, requests, crls, { applications }] = await Promise.all([
    issuedBy(db, kept.thumbprint),
    openRequests(db, kept.thumbprint),
    allCrls(db),
    readPlant(db),
  ]);
  const crl = crls.find(({ id }) => id === kept.crlId) ?? newestOf(crls, found.certificate);
  const names = new Map(applications.map(({ id, name }) => [id, name]));
  const nameOf = (id: string): string => names.get(id) ?? id;
  const daysLeft = crl?.nextUpdate ? Math.floor((crl.nextUpdate - Date.now()) / dayMs) : null;
  return {
    thumbprint: kept.thumbprint,
    name: commonName(found.summary.subject),
    certificate: found.summary as AuthorityView['certificate'],
    isCurrent: kept.isCurrent,
    keyKept: kept.keyKind !== null,
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

const numberOf = ({ number }: Crl): number => Number.parseInt(number ?? '0', 16);

function crlWarning(daysLeft: number | null, isKeyHere: boolean): string | null {
  if (daysLeft === null || daysLeft > warnCrlDays) return null;
  return daysLeft < 0
    ? 'Its next update is past: who demands CRLs accepts nothing any more that this authority signed.'
    : `Its next update is due in ${counted(daysLeft, 'day')}. ${isKeyHere ? 'Issue a new one' : 'Have a new one issued where its key is kept'}, and give it to all lists.`;
}
