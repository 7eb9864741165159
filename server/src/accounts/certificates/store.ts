import { asc, eq } from 'drizzle-orm';
import { shownCertificateOf } from '@loyal-hinge/core';
import type { Certificate, ShownCertificate } from '@loyal-hinge/core';
import { certificatesBy, keepCertificate } from '../../certificates/store.js';
import type { Keyed } from '../../certificates/given-key.js';
import type { Queryable } from '../../database/database.js';
import { userCertificates } from '../../database/schema.js';
import { userKeyOf } from '../../secrets/sealing.js';
import type { SecretStore } from '../../secrets/sealing.js';

/** A user certificate of the plant, with those above it that came with it. */
export interface KeptUserCertificate {
  readonly name: string;
  readonly certificate: Certificate;
  readonly above: readonly Certificate[];
  readonly setAt: string;
  readonly setBy: string;
}

/** Keeps certificate and key under a name, instead of whatever was there. */
export async function keepUserCertificate(
  tx: Queryable,
  secrets: SecretStore,
  name: string,
  { certificate, privateKeyPem, others }: Keyed,
  setBy: string,
): Promise<void> {
  for (const { der } of [certificate, ...others]) await keepCertificate(tx, der);
  const row = {
    thumbprint: certificate.thumbprint,
    above: others.map(({ thumbprint }) => thumbprint),
    setAt: new Date().toISOString(),
    setBy,
  };
  await tx
    .insert(userCertificates)
    .values({ name, ...row })
    .onConflictDoUpdate({ target: userCertificates.name, set: row });
  await secrets.keep(tx, userKeyOf(name), privateKeyPem, null);
}

/** @returns the thumbprint of what was forgotten; null: there was nothing */
export async function forgetUserCertificate(tx: Queryable, secrets: SecretStore, name: string): Promise<string | null> {
  const [gone] = await tx.delete(userCertificates).where(eq(userCertificates.name, name)).returning();
  await secrets.forget(tx, userKeyOf(name));
  return gone?.thumbprint ?? null;
}

/** All, or the one of a name, by name. */
export async function keptUserCertificates(db: Queryable, name?: string): Promise<readonly KeptUserCertificate[]> {
  const rows = await db
    .select()
    .from(userCertificates)
    .where(name === undefined ? undefined : eq(userCertificates.name, name))
    .orderBy(asc(userCertificates.name));
  const read = await certificatesBy(
    db,
    rows.flatMap(({ thumbprint, above }) => [thumbprint, ...above]),
  );
  return rows.flatMap(({ thumbprint, above, setAt, ...row }) => {
    const certificate = read.get(thumbprint);
    return certificate
      ? [
          {
            ...row,
            certificate,
            above: above.flatMap((one) => read.get(one) ?? []),
            setAt: new Date(setAt).toISOString(),
          },
        ]
      : [];
  });
}

/** By name, what rules of roles see of each user certificate. */
export async function shownUserCertificates(db: Queryable): Promise<ReadonlyMap<string, ShownCertificate>> {
  const kept = await keptUserCertificates(db);
  return new Map(kept.map(({ name, certificate, above }) => [name, shownCertificateOf(certificate, above)]));
}

/** With its key, opened; null: none is kept under the name. */
export async function userCertificateFor(
  db: Queryable,
  secrets: SecretStore,
  name: string,
): Promise<{ readonly certificate: Certificate; readonly privateKeyPem: string } | null> {
  const [[kept], privateKeyPem] = await Promise.all([
    keptUserCertificates(db, name),
    secrets.find(db, userKeyOf(name)),
  ]);
  return kept && privateKeyPem !== null ? { certificate: kept.certificate, privateKeyPem } : null;
}
