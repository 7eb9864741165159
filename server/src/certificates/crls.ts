import { decodeBase64, encodeBase64, readCrl } from '@loyal-hinge/core';
import type { Crl } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { crls } from '../database/schema.js';
import { Known } from './known.js';

/** Keeps a CRL’s bytes, and gives its id; null where they are no CRL. */
export async function keepCrl(db: Queryable, der: Uint8Array): Promise<string | null> {
  const read = readCrl(der);
  if (!read.ok) return null;
  await db
    .insert(crls)
    .values({ id: read.crl.id, der: encodeBase64(der) })
    .onConflictDoNothing();
  return read.crl.id;
}

/** CRLs that were read, by id: they never change. */
const readOnes = new Known<Crl>(5_000);

/** CRLs by their ids; those that are not kept are left out. Each is read once in a process. */
export const crlsBy = (db: Queryable, ids: readonly string[]): Promise<ReadonlyMap<string, Crl>> =>
  readOnes.gather(ids, async (missing) =>
    (await db.select().from(crls).where(ofThese(crls.id, missing))).flatMap(({ id, der }) =>
      crlIn(der).map((crl) => [id, crl] as const),
    ),
  );

/** All CRLs that are known, whoever holds them. */
export async function allCrls(db: Queryable): Promise<readonly Crl[]> {
  const rows = await db.select({ id: crls.id }).from(crls);
  const found = await crlsBy(
    db,
    rows.map(({ id }) => id),
  );
  return [...found.values()];
}

function crlIn(base64: string): Crl[] {
  const der = decodeBase64(base64);
  const read = der ? readCrl(der) : null;
  return read?.ok ? [read.crl] : [];
}
