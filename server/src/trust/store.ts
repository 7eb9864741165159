import { and, desc, eq, isNull, sql } from 'drizzle-orm';
import { decodeBase64, encodeBase64, readCertificate } from '@loyal-hinge/core';
import type { Certificate, CertificateSummary } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import {
  applicationCertificates,
  applications,
  certificates,
  clientCertificates,
  trustWays,
} from '../database/schema.js';

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
): Promise<{ der: Uint8Array; certificate: Certificate; summary: CertificateSummary; firstSeen: string } | null> {
  const [row] = await db.select().from(certificates).where(eq(certificates.thumbprint, thumbprint));
  const der = row ? decodeBase64(row.der) : null;
  const read = der ? readCertificate(der) : null;
  return row && der && read?.ok
    ? {
        der,
        certificate: read.certificate,
        summary: read.certificate.summary,
        firstSeen: new Date(row.firstSeen).toISOString(),
      }
    : null;
}

/** Every certificate that was ever seen or given. */
export async function allCertificates(db: Queryable): Promise<readonly Certificate[]> {
  return (await db.select({ der: certificates.der }).from(certificates)).flatMap(({ der }) => certificateIn(der));
}

function certificateIn(base64: string): Certificate[] {
  const der = decodeBase64(base64);
  const read = der ? readCertificate(der) : null;
  return read?.ok ? [read.certificate] : [];
}

export async function clientCertificateOf(db: Queryable, applicationId: string): Promise<Uint8Array | null> {
  const [row] = await db
    .select({ der: certificates.der })
    .from(clientCertificates)
    .innerJoin(certificates, eq(certificates.thumbprint, clientCertificates.thumbprint))
    .where(eq(clientCertificates.applicationId, applicationId));
  return row ? decodeBase64(row.der) : null;
}

/** Clients that act with a certificate and key kept here. */
export async function clientsHeld(db: Queryable): Promise<ReadonlySet<string>> {
  const rows = await db.select({ id: clientCertificates.applicationId }).from(clientCertificates);
  return new Set(rows.map(({ id }) => id));
}

export async function setClientCertificate(tx: Queryable, applicationId: string, thumbprint: string): Promise<void> {
  await tx
    .insert(clientCertificates)
    .values({ applicationId, thumbprint })
    .onConflictDoUpdate({ target: clientCertificates.applicationId, set: { thumbprint } });
  await noteShown(tx, applicationId, thumbprint);
}

/** Notes that an application showed a certificate, or was given it, just now. */
export async function noteShown(tx: Queryable, applicationId: string, thumbprint: string): Promise<void> {
  await tx
    .insert(applicationCertificates)
    .values({ applicationId, thumbprint })
    .onConflictDoUpdate({
      target: [applicationCertificates.applicationId, applicationCertificates.thumbprint],
      set: { lastSeen: sql`now()` },
    });
}

/** The certificates with which each application was seen, the newest first. */
export async function shownCertificates(db: Queryable): Promise<ReadonlyMap<string, readonly Certificate[]>> {
  const rows = await db
    .select({ applicationId: applicationCertificates.applicationId, der: certificates.der })
    .from(applicationCertificates)
    .innerJoin(certificates, eq(certificates.thumbprint, applicationCertificates.thumbprint))
    .orderBy(desc(applicationCertificates.lastSeen));
  const found = new Map<string, Certificate[]>();
  for (const { applicationId, der } of rows)
    found.set(applicationId, [...(found.get(applicationId) ?? []), ...certificateIn(der)]);
  return found;
}

export type KeptWay = typeof trustWays.$inferSelect;

export async function wayOf(db: Queryable, applicationId: string): Promise<KeptWay | null> {
  const [row] = await db.select().from(trustWays).where(eq(trustWays.applicationId, applicationId));
  return row ?? null;
}

export async function allWays(db: Queryable): Promise<ReadonlyMap<string, KeptWay>> {
  return new Map((await db.select().from(trustWays)).map((row) => [row.applicationId, row]));
}

/** Those whose lists go over push management: the product reads and writes them itself. */
export async function pushedApplications(db: Queryable): Promise<readonly string[]> {
  const rows = await db
    .select({ id: trustWays.applicationId })
    .from(trustWays)
    .innerJoin(applications, eq(applications.id, trustWays.applicationId))
    .leftJoin(clientCertificates, eq(clientCertificates.applicationId, trustWays.applicationId))
    .where(and(eq(trustWays.way, 'push'), isNull(clientCertificates.applicationId)));
  return rows.map(({ id }) => id);
}

export async function setWay(tx: Queryable, kept: Omit<KeptWay, 'restarts'>): Promise<void> {
  await tx.insert(trustWays).values(kept).onConflictDoUpdate({ target: trustWays.applicationId, set: kept });
}

export async function forgetWay(tx: Queryable, applicationId: string): Promise<void> {
  await tx.delete(trustWays).where(eq(trustWays.applicationId, applicationId));
}

export async function noteRestarts(tx: Queryable, applicationId: string, restarts: boolean): Promise<void> {
  await tx
    .update(trustWays)
    .set({ restarts })
    .where(and(eq(trustWays.applicationId, applicationId)));
}
