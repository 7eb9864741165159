import { desc, eq, sql } from 'drizzle-orm';
import { decodeBase64, encodeBase64, readCertificate } from '@loyal-hinge/core';
import type { Certificate, CertificateSummary } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { applicationCertificates, certificates, clientCertificates } from '../database/schema.js';
import { tellHeld } from '../events/notices.js';
import { Known } from './known.js';

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

/** Certificates that were read, by thumbprint: they never change. What was not used for longest goes first. */
const readOnes = new Known<Certificate>(60_000);

/** Certificates by their thumbprints; those that are not kept are left out. Each is read once in a process. */
export async function certificatesBy(
  db: Queryable,
  thumbprints: readonly string[],
): Promise<ReadonlyMap<string, Certificate>> {
  return readOnes.gather(thumbprints, async (missing) =>
    (await db.select().from(certificates).where(ofThese(certificates.thumbprint, missing))).flatMap(
      ({ thumbprint, der }) => certificateIn(der).map((certificate) => [thumbprint, certificate] as const),
    ),
  );
}

/** Every certificate that was ever seen or given. */
export async function allCertificates(db: Queryable): Promise<readonly Certificate[]> {
  const rows = await db.select({ thumbprint: certificates.thumbprint }).from(certificates);
  const found = await certificatesBy(
    db,
    rows.map(({ thumbprint }) => thumbprint),
  );
  return [...found.values()];
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
export async function clientsHeld(db: Queryable, applicationIds?: readonly string[]): Promise<ReadonlySet<string>> {
  const rows = await db
    .select({ id: clientCertificates.applicationId })
    .from(clientCertificates)
    .where(ofThese(clientCertificates.applicationId, applicationIds));
  return new Set(rows.map(({ id }) => id));
}

export async function setClientCertificate(tx: Queryable, applicationId: string, thumbprint: string): Promise<void> {
  await tx
    .insert(clientCertificates)
    .values({ applicationId, thumbprint })
    .onConflictDoUpdate({ target: clientCertificates.applicationId, set: { thumbprint } });
  await noteShown(tx, applicationId, thumbprint);
  await tellHeld(tx, applicationId);
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
export async function shownCertificates(
  db: Queryable,
  applicationIds?: readonly string[],
): Promise<ReadonlyMap<string, readonly Certificate[]>> {
  const rows = await db
    .select({
      applicationId: applicationCertificates.applicationId,
      thumbprint: applicationCertificates.thumbprint,
    })
    .from(applicationCertificates)
    .where(ofThese(applicationCertificates.applicationId, applicationIds))
    .orderBy(desc(applicationCertificates.lastSeen));
  const read = await certificatesBy(
    db,
    rows.map(({ thumbprint }) => thumbprint),
  );
  const found = new Map<string, Certificate[]>();
  for (const { applicationId, thumbprint } of rows) {
    const certificate = read.get(thumbprint);
    if (!certificate) continue;
    const known = found.get(applicationId);
    if (known) known.push(certificate);
    else found.set(applicationId, [certificate]);
  }
  return found;
}

/** The applications that were seen with a certificate, and whether it is the one that each shows now. */
export async function shownBy(
  db: Queryable,
  thumbprint: string,
): Promise<readonly { readonly applicationId: string; readonly now: boolean }[]> {
  const { rows } = await db.execute<{ applicationId: string; now: boolean }>(sql`
    select a.application_id as "applicationId", not exists (
      select 1 from application_certificates newer
      where newer.application_id = a.application_id and newer.last_seen > a.last_seen) as now
    from application_certificates a where a.thumbprint = ${thumbprint} order by a.last_seen desc`);
  return rows;
}
