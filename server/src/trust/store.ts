import { and, eq } from 'drizzle-orm';
import { decodeBase64, encodeBase64, readCertificate } from '@loyal-hinge/core';
import type { CertificateSummary, TrustList } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { certificates, clientCertificates, standInDoors, trustEntries } from '../database/schema.js';

/** Keeps a certificate's bytes, and gives its thumbprint; null where they are no certificate. */
export async function keepCertificate(db: Queryable, der: Uint8Array): Promise<string | null> {
  const read = readCertificate(der);
  if (!read.ok) return null;
  const { thumbprint } = read.certificate.summary;
  await db
    .insert(certificates)
    .values({ thumbprint, der: encodeBase64(der) })
    .onConflictDoNothing();
  return thumbprint;
}

export async function findCertificate(
  db: Queryable,
  thumbprint: string,
): Promise<{ der: Uint8Array; summary: CertificateSummary; firstSeen: string } | null> {
  const [row] = await db.select().from(certificates).where(eq(certificates.thumbprint, thumbprint));
  const der = row ? decodeBase64(row.der) : null;
  const read = der ? readCertificate(der) : null;
  return row && der && read?.ok
    ? { der, summary: read.certificate.summary, firstSeen: new Date(row.firstSeen).toISOString() }
    : null;
}

export async function clientCertificateOf(db: Queryable, applicationId: string): Promise<Uint8Array | null> {
  const [row] = await db
    .select({ der: certificates.der })
    .from(clientCertificates)
    .innerJoin(certificates, eq(certificates.thumbprint, clientCertificates.thumbprint))
    .where(eq(clientCertificates.applicationId, applicationId));
  return row ? decodeBase64(row.der) : null;
}

export async function setClientCertificate(tx: Queryable, applicationId: string, thumbprint: string): Promise<void> {
  await tx
    .insert(clientCertificates)
    .values({ applicationId, thumbprint })
    .onConflictDoUpdate({ target: clientCertificates.applicationId, set: { thumbprint } });
}

export async function trustListOf(db: Queryable, applicationId: string): Promise<TrustList> {
  const rows = await db
    .select({ list: trustEntries.list, der: certificates.der })
    .from(trustEntries)
    .innerJoin(certificates, eq(certificates.thumbprint, trustEntries.thumbprint))
    .where(eq(trustEntries.applicationId, applicationId));
  const listed = (list: 'trusted' | 'issuers'): Uint8Array[] =>
    rows.filter((row) => row.list === list).flatMap((row) => decodeBase64(row.der) ?? []);
  return { trusted: listed('trusted'), issuers: listed('issuers'), crls: [] };
}

export async function trust(
  tx: Queryable,
  applicationId: string,
  list: 'trusted' | 'issuers',
  thumbprint: string,
): Promise<void> {
  await tx.insert(trustEntries).values({ applicationId, list, thumbprint }).onConflictDoNothing();
}

export async function isTrusted(db: Queryable, applicationId: string, thumbprint: string): Promise<boolean> {
  const rows = await db
    .select({ thumbprint: trustEntries.thumbprint })
    .from(trustEntries)
    .where(
      and(
        eq(trustEntries.applicationId, applicationId),
        eq(trustEntries.list, 'trusted'),
        eq(trustEntries.thumbprint, thumbprint),
      ),
    );
  return rows.length > 0;
}

export async function doorUrlOf(db: Queryable, applicationId: string): Promise<string | null> {
  const [row] = await db.select().from(standInDoors).where(eq(standInDoors.applicationId, applicationId));
  return row?.url ?? null;
}

export async function setDoor(tx: Queryable, applicationId: string, url: string): Promise<void> {
  await tx
    .insert(standInDoors)
    .values({ applicationId, url })
    .onConflictDoUpdate({ target: standInDoors.applicationId, set: { url } });
}
