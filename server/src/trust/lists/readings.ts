import { eq } from 'drizzle-orm';
import { readCertificate, readCrl } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import { ofThese } from '../../database/of-these.js';
import { trustReadings } from '../../database/schema.js';
import type { ListedBytes } from './store.js';

export type Reading = typeof trustReadings.$inferSelect;

export async function readingOf(db: Queryable, applicationId: string): Promise<Reading | null> {
  const [row] = await db.select().from(trustReadings).where(eq(trustReadings.applicationId, applicationId));
  return row ?? null;
}

export async function allReadings(
  db: Queryable,
  applicationIds?: readonly string[],
): Promise<ReadonlyMap<string, Reading>> {
  const rows = await db.select().from(trustReadings).where(ofThese(trustReadings.applicationId, applicationIds));
  return new Map(rows.map((row) => [row.applicationId, row]));
}

const mostUnreadable = 50;

/** Why parts of lists can’t be read: what can’t be kept is told. */
export function unreadableIn(lists: ListedBytes): Pick<Reading, 'unreadableCrls' | 'unreadableCertificates'> {
  const told = (ders: readonly Uint8Array[], read: (der: Uint8Array) => { ok: true } | { ok: false; says: string }) =>
    ders
      .map(read)
      .flatMap((result) => (result.ok ? [] : [result.says]))
      .slice(0, mostUnreadable);
  return {
    unreadableCrls: told([...lists.trustedCrls, ...lists.issuerCrls], readCrl),
    unreadableCertificates: told([...lists.trusted, ...lists.issuers, ...lists.rejected], readCertificate),
  };
}

/** Notes that lists were read just now, or why they could not be. */
export async function noteReading(
  tx: Queryable,
  applicationId: string,
  told: { readonly source: 'tried' | 'reported'; readonly by: string } & (
    | { readonly readAt: string; readonly fault: null; readonly lists: ListedBytes }
    | { readonly readAt: null; readonly fault: string }
  ),
): Promise<void> {
  const triedAt = new Date().toISOString();
  const { readAt, fault, source, by } = told;
  const unreadable = told.readAt === null ? {} : unreadableIn(told.lists);
  const set = readAt === null ? { triedAt, fault } : { readAt, source, by, triedAt, fault: null, ...unreadable };
  await tx
    .insert(trustReadings)
    .values({ applicationId, readAt, source, by, triedAt, fault, ...unreadable })
    .onConflictDoUpdate({ target: trustReadings.applicationId, set });
}
