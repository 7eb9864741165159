import { and, desc, eq, inArray, isNotNull, lte, ne } from 'drizzle-orm';
import { readCertificate } from '@loyal-hinge/core';
import type { Certificate, Crl, KnownLists, TrustList } from '@loyal-hinge/core';
import { crlsBy, keepCrl } from '../../certificates/crls.js';
import { certificatesBy, keepCertificate } from '../../certificates/store.js';
import { ofThese } from '../../database/of-these.js';
import type { Queryable } from '../../database/database.js';
import { tellHeld } from '../../events/notices.js';
import { trustCrls, trustEntries, trustHistory, trustReadings } from '../../database/schema.js';
import type { ListedIds } from '../../database/schema.js';
import { readingOf } from './readings.js';

/** Lists as they were read or are to be kept, by bytes. */
export interface ListedBytes {
  readonly trusted: readonly Uint8Array[];
  readonly issuers: readonly Uint8Array[];
  readonly trustedCrls: readonly Uint8Array[];
  readonly issuerCrls: readonly Uint8Array[];
  readonly rejected: readonly Uint8Array[];
}

export const noLists: ListedBytes = { trusted: [], issuers: [], trustedCrls: [], issuerCrls: [], rejected: [] };
const certificateLists = ['trusted', 'issuers', 'rejected'] as const;
type CertificateList = (typeof certificateLists)[number];

/**
 * Makes the kept lists of an application what they were read or made to be. What stays keeps its date and its end;
 * a difference of what gives trust is written into the history.
 */
export async function replaceLists(
  tx: Queryable,
  applicationId: string,
  lists: ListedBytes,
  told: { readonly actor: string; readonly says: string },
): Promise<void> {
  const before = await listedIds(tx, applicationId);
  for (const list of certificateLists) await replaceCertificates(tx, applicationId, list, lists[list]);
  await replaceCrls(tx, applicationId, 'trusted', lists.trustedCrls);
  await replaceCrls(tx, applicationId, 'issuers', lists.issuerCrls);
  const after = await listedIds(tx, applicationId);
  if (JSON.stringify(before) !== JSON.stringify(after)) await tellHeld(tx, applicationId);
  const wasRead = (await readingOf(tx, applicationId))?.readAt ?? null;
  if (wasRead !== null && JSON.stringify(before) !== JSON.stringify(after))
    await tx.insert(trustHistory).values({ applicationId, ...told, before, after });
}

async function replaceCertificates(
  tx: Queryable,
  applicationId: string,
  list: CertificateList,
  ders: readonly Uint8Array[],
): Promise<void> {
  const wanted = new Set<string>();
  for (const der of ders) {
    const thumbprint = await keepCertificate(tx, der);
    if (thumbprint) wanted.add(thumbprint);
  }
  const here = and(eq(trustEntries.applicationId, applicationId), eq(trustEntries.list, list));
  const rows = await tx.select({ thumbprint: trustEntries.thumbprint }).from(trustEntries).where(here);
  const gone = rows.map(({ thumbprint }) => thumbprint).filter((thumbprint) => !wanted.has(thumbprint));
  if (gone.length > 0) await tx.delete(trustEntries).where(and(here, inArray(trustEntries.thumbprint, gone)));
  for (const thumbprint of wanted)
    await tx.insert(trustEntries).values({ applicationId, list, thumbprint }).onConflictDoNothing();
}

async function replaceCrls(
  tx: Queryable,
  applicationId: string,
  list: 'trusted' | 'issuers',
  ders: readonly Uint8Array[],
): Promise<void> {
  await tx.delete(trustCrls).where(and(eq(trustCrls.applicationId, applicationId), eq(trustCrls.list, list)));
  for (const der of ders) {
    const crlId = await keepCrl(tx, der);
    if (crlId) await tx.insert(trustCrls).values({ applicationId, list, crlId }).onConflictDoNothing();
  }
}

/** The ids of what gives or completes trust, in a settled order. */
export async function listedIds(db: Queryable, applicationId: string): Promise<ListedIds> {
  const [entries, lists] = await Promise.all([
    db.select().from(trustEntries).where(eq(trustEntries.applicationId, applicationId)),
    db.select().from(trustCrls).where(eq(trustCrls.applicationId, applicationId)),
  ]);
  const thumbprints = (list: CertificateList): string[] =>
    entries
      .filter((entry) => entry.list === list)
      .map(({ thumbprint }) => thumbprint)
      .sort();
  const ids = (list: 'trusted' | 'issuers'): string[] =>
    lists
      .filter((entry) => entry.list === list)
      .map(({ crlId }) => crlId)
      .sort();
  return {
    trusted: thumbprints('trusted'),
    issuers: thumbprints('issuers'),
    trustedCrls: ids('trusted'),
    issuerCrls: ids('issuers'),
  };
}

/** The kept lists of all applications, read; each certificate and CRL once. */
export async function allLists(
  db: Queryable,
  applicationIds?: readonly string[],
): Promise<ReadonlyMap<string, KnownLists>> {
  const [entries, lists, readings] = await Promise.all([
    db
      .select({
        applicationId: trustEntries.applicationId,
        list: trustEntries.list,
        thumbprint: trustEntries.thumbprint,
      })
      .from(trustEntries)
      .where(ofThese(trustEntries.applicationId, applicationIds)),
    db
      .select({ applicationId: trustCrls.applicationId, list: trustCrls.list, crlId: trustCrls.crlId })
      .from(trustCrls)
      .where(ofThese(trustCrls.applicationId, applicationIds)),
    db
      .select({ applicationId: trustReadings.applicationId, unreadableCrls: trustReadings.unreadableCrls })
      .from(trustReadings)
      .where(and(ne(trustReadings.unreadableCrls, []), ofThese(trustReadings.applicationId, applicationIds))),
  ]);
  const [readCertificates, readCrls] = await Promise.all([
    certificatesBy(
      db,
      entries.map(({ thumbprint }) => thumbprint),
    ),
    crlsBy(
      db,
      lists.map(({ crlId }) => crlId),
    ),
  ]);
  const found = new Map<string, Gathered>();
  const of = (applicationId: string): Gathered => {
    const known = found.get(applicationId) ?? {
      trusted: [],
      issuers: [],
      rejected: [],
      trustedCrls: [],
      issuerCrls: [],
      unreadableCrls: [],
    };
    found.set(applicationId, known);
    return known;
  };
  for (const { applicationId, list, thumbprint } of entries) {
    const certificate = readCertificates.get(thumbprint);
    if (certificate) of(applicationId)[list].push(certificate);
  }
  for (const { applicationId, list, crlId } of lists) {
    const crl = readCrls.get(crlId);
    if (crl) of(applicationId)[list === 'trusted' ? 'trustedCrls' : 'issuerCrls'].push(crl);
  }
  for (const { applicationId, unreadableCrls } of readings) of(applicationId).unreadableCrls.push(...unreadableCrls);
  return found;
}

interface Gathered {
  readonly trusted: Certificate[];
  readonly issuers: Certificate[];
  readonly rejected: Certificate[];
  readonly trustedCrls: Crl[];
  readonly issuerCrls: Crl[];
  readonly unreadableCrls: string[];
}

export const listsOf = async (db: Queryable, applicationId: string): Promise<KnownLists> =>
  (await allLists(db, [applicationId])).get(applicationId) ?? {
    trusted: [],
    issuers: [],
    rejected: [],
    trustedCrls: [],
    issuerCrls: [],
  };

/** The trust list of a client of ours, by bytes. */
export async function trustListOf(db: Queryable, applicationId: string): Promise<TrustList> {
  const { trusted, issuers, trustedCrls, issuerCrls, unreadableCrls = [] } = await listsOf(db, applicationId);
  const ders = (parts: readonly { readonly der: Uint8Array }[]): Uint8Array[] => parts.map(({ der }) => der);
  return {
    trusted: ders(trusted),
    issuers: ders(issuers),
    crls: ders([...trustedCrls, ...issuerCrls]),
    unreadableCrls,
  };
}

/** What is known of an application’s lists from when they were last read; null where they never were. */
export async function knownListsOf(
  db: Queryable,
  applicationId: string,
): Promise<
  | (TrustList & {
      readonly rejected: readonly Uint8Array[];
      readonly readAt: string;
      readonly by: string;
      rejectedSince(der: Uint8Array): string | null;
    })
  | null
> {
  const reading = await readingOf(db, applicationId);
  if (!reading?.readAt) return null;
  const readAt = new Date(reading.readAt).toISOString();
  const [lists, trustList, entries] = await Promise.all([
    listsOf(db, applicationId),
    trustListOf(db, applicationId),
    entriesOf(db, applicationId),
  ]);
  return {
    ...trustList,
    rejected: lists.rejected.map(({ der }) => der),
    readAt,
    by: `${reading.by}, on ${readAt.slice(0, 16).replace('T', ' ')} UTC`,
    rejectedSince: rejectedSinceBy(entries),
  };
}

/** Since when a certificate is known to be in the rejected list. */
export const rejectedSinceBy =
  (entries: Awaited<ReturnType<typeof entriesOf>>) =>
  (der: Uint8Array): string | null => {
    const read = readCertificate(der);
    const entry = entries.find(
      ({ list, thumbprint }) => list === 'rejected' && read.ok && thumbprint === read.certificate.thumbprint,
    );
    return entry ? new Date(entry.since).toISOString() : null;
  };

/** Gives a trust an end, or takes it away. */
export async function setUntil(
  tx: Queryable,
  applicationId: string,
  thumbprint: string,
  until: string | null,
): Promise<void> {
  await tx
    .update(trustEntries)
    .set({ until })
    .where(
      and(
        eq(trustEntries.applicationId, applicationId),
        eq(trustEntries.list, 'trusted'),
        eq(trustEntries.thumbprint, thumbprint),
      ),
    );
}

/** Temporary trusts whose time is over. */
export const endedTrusts = (db: Queryable, at: string) =>
  db
    .select({
      applicationId: trustEntries.applicationId,
      thumbprint: trustEntries.thumbprint,
      until: trustEntries.until,
    })
    .from(trustEntries)
    .where(and(eq(trustEntries.list, 'trusted'), isNotNull(trustEntries.until), lte(trustEntries.until, at)));

export const entriesOf = (db: Queryable, applicationId: string) =>
  db.select().from(trustEntries).where(eq(trustEntries.applicationId, applicationId));

/** Where a certificate lies, in whatever list. */
export const allEntries = (db: Queryable, thumbprint: string) =>
  db.select().from(trustEntries).where(eq(trustEntries.thumbprint, thumbprint));

export const historyOf = (db: Queryable, applicationId: string) =>
  db
    .select()
    .from(trustHistory)
    .where(eq(trustHistory.applicationId, applicationId))
    .orderBy(desc(trustHistory.id))
    .limit(50);
