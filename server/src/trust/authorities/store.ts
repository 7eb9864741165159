import { and, desc, eq, inArray, isNotNull, isNull } from 'drizzle-orm';
import { decodeBase64, isSameAuthority, readCertificate } from '@loyal-hinge/core';
import type { Certificate, RevocationReason } from '@loyal-hinge/core';
import type { KeyKind } from '@loyal-hinge/core/issuing';
import type { Queryable } from '../../database/database.js';
import { authorities, certificates, issued, signingRequests } from '../../database/schema.js';
import { findCertificate } from '../../certificates/store.js';

/** Under which name the encrypted key of an authority lies among the secrets. */
export const authorityKeyOf = (thumbprint: string): string => `key of authority ${thumbprint}`;

export type KeptAuthority = typeof authorities.$inferSelect;
export type Issued = typeof issued.$inferSelect;
export type KeptRequest = typeof signingRequests.$inferSelect;

export const allAuthorities = (db: Queryable): Promise<KeptAuthority[]> =>
  db.select().from(authorities).orderBy(desc(authorities.isCurrent), desc(authorities.since));

export async function findAuthority(db: Queryable, thumbprint: string): Promise<KeptAuthority | null> {
  const [row] = await db.select().from(authorities).where(eq(authorities.thumbprint, thumbprint));
  return row ?? null;
}

/** Thumbprints of those whose key lies here. */
export async function authoritiesHere(db: Queryable): Promise<ReadonlySet<string>> {
  const rows = await db
    .select({ thumbprint: authorities.thumbprint })
    .from(authorities)
    .where(isNotNull(authorities.keyKind));
  return new Set(rows.map(({ thumbprint }) => thumbprint));
}

/** The authority with which plans reckon; null where the plant has none. */
export async function currentAuthority(db: Queryable): Promise<Certificate | null> {
  const [row] = await db
    .select()
    .from(authorities)
    .where(eq(authorities.isCurrent, true))
    .orderBy(desc(authorities.since))
    .limit(1);
  return row ? ((await findCertificate(db, row.thumbprint))?.certificate ?? null) : null;
}

/** Keeps an authority; one that is current takes the place of the one before. */
export async function keepAuthority(
  tx: Queryable,
  kept: { readonly thumbprint: string; readonly keyKind: KeyKind | null; readonly isCurrent: boolean },
): Promise<void> {
  if (kept.isCurrent) await tx.update(authorities).set({ isCurrent: false });
  await tx.insert(authorities).values(kept).onConflictDoUpdate({ target: authorities.thumbprint, set: kept });
}

/** An authority and what it was or became by a renewal with its key: whatever the one signs or revokes, the others do. */
export async function selvesOf(db: Queryable, authority: Certificate): Promise<readonly KeptAuthority[]> {
  const rows = await db
    .select({ kept: authorities, der: certificates.der })
    .from(authorities)
    .innerJoin(certificates, eq(certificates.thumbprint, authorities.thumbprint));
  return rows.flatMap(({ kept, der }) => {
    const read = readCertificate(decodeBase64(der) ?? new Uint8Array());
    return read.ok && isSameAuthority(read.certificate, authority) ? [kept] : [];
  });
}

/** The number and the newest CRL of an authority, and of what it is by other certificates. */
export async function noteCrl(
  tx: Queryable,
  thumbprints: readonly string[],
  crlNumber: number,
  crlId: string,
): Promise<void> {
  await tx
    .update(authorities)
    .set({ crlNumber, crlId })
    .where(inArray(authorities.thumbprint, [...thumbprints]));
}

export const issuedBy = (db: Queryable, authority: string): Promise<Issued[]> =>
  db.select().from(issued).where(eq(issued.authority, authority)).orderBy(desc(issued.issuedAt));

export const revokedBy = (db: Queryable, selves: readonly string[]): Promise<Issued[]> =>
  db
    .select()
    .from(issued)
    .where(and(inArray(issued.authority, [...selves]), isNotNull(issued.revokedAt)));

export async function noteIssued(
  tx: Queryable,
  row: {
    authority: string;
    serialNumber: string;
    thumbprint: string;
    applicationId: string | null;
    forLine: string | null;
  },
): Promise<void> {
  await tx
    .insert(issued)
    .values({ ...row, issuedAt: new Date().toISOString() })
    .onConflictDoNothing();
}

/** What was signed for a line of a work order and is not revoked, oldest first. */
export const issuedFor = (db: Queryable, authority: string, forLine: string): Promise<Issued[]> =>
  db
    .select()
    .from(issued)
    .where(and(eq(issued.authority, authority), eq(issued.forLine, forLine), isNull(issued.revokedAt)))
    .orderBy(issued.issuedAt);

export async function noteRevoked(
  tx: Queryable,
  authority: string,
  serialNumber: string,
  revokedAt: string,
  reason: RevocationReason,
  thumbprint: string | null = null,
): Promise<void> {
  await tx
    .insert(issued)
    .values({ authority, serialNumber, thumbprint, revokedAt, reason })
    .onConflictDoUpdate({ target: [issued.authority, issued.serialNumber], set: { revokedAt, reason } });
}

/** Requests of an authority that is kept elsewhere, for which no certificate has come back yet. */
export const openRequests = (db: Queryable, authority: string): Promise<KeptRequest[]> =>
  db
    .select()
    .from(signingRequests)
    .where(and(eq(signingRequests.authority, authority), isNull(signingRequests.settledAt)))
    .orderBy(desc(signingRequests.madeAt));

export async function findOpenRequest(db: Queryable, id: string): Promise<KeptRequest | null> {
  const [row] = await db
    .select()
    .from(signingRequests)
    .where(and(eq(signingRequests.id, id), isNull(signingRequests.settledAt)));
  return row ?? null;
}

export async function addRequest(
  tx: Queryable,
  row: Pick<KeptRequest, 'id' | 'authority' | 'applicationId' | 'request' | 'madeBy'>,
): Promise<void> {
  await tx.insert(signingRequests).values(row);
}

/** Its certificate came, or nobody waits for it any more; false where that happened before. */
export async function settleRequest(tx: Queryable, id: string, thumbprint: string | null): Promise<boolean> {
  const moved = await tx
    .update(signingRequests)
    .set({ thumbprint, settledAt: new Date().toISOString() })
    .where(and(eq(signingRequests.id, id), isNull(signingRequests.settledAt)))
    .returning({ id: signingRequests.id });
  return moved.length > 0;
}
