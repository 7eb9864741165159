import { and, eq, inArray, isNotNull, or, sql } from 'drizzle-orm';
import { decodeBase64, readCertificate, writePem } from '@loyal-hinge/core';
import { readSigningRequest } from '@loyal-hinge/core/issuing';
import type { Outpost } from '@loyal-hinge/contract';
import type { FromServer } from '@loyal-hinge/contract/line';
import { aliveMs } from '@loyal-hinge/contract/line';
import { createHash } from 'node:crypto';
import type { Queryable } from '../database/database.js';
import { authorities, certificates, machines, outposts } from '../database/schema.js';
import { crlsBy } from '../certificates/crls.js';
import { findCertificate } from '../certificates/store.js';

export type OutpostRow = typeof outposts.$inferSelect;

export async function findOutpost(db: Queryable, id: string): Promise<OutpostRow | null> {
  const [row] = await db.select().from(outposts).where(eq(outposts.id, id));
  return row ?? null;
}

export async function outpostsBy(db: Queryable, ids: readonly string[]): Promise<readonly OutpostRow[]> {
  return ids.length === 0
    ? []
    : db
        .select()
        .from(outposts)
        .where(inArray(outposts.id, [...ids]));
}

/** The outpost that shows a certificate; null: none that is known here does. */
export async function outpostWithCertificate(db: Queryable, thumbprint: string): Promise<OutpostRow | null> {
  const [row] = await db
    .select()
    .from(outposts)
    .where(or(eq(outposts.thumbprint, thumbprint), eq(outposts.formerThumbprint, thumbprint)));
  return row ?? null;
}

export async function outpostWithTicket(db: Queryable, ticketHash: string): Promise<OutpostRow | null> {
  const [row] = await db.select().from(outposts).where(eq(outposts.ticketHash, ticketHash));
  return row ?? null;
}

export async function changeOutpost(tx: Queryable, id: string, to: Partial<OutpostRow>): Promise<boolean> {
  const changed = await tx.update(outposts).set(to).where(eq(outposts.id, id)).returning({ id: outposts.id });
  return changed.length > 0;
}

/** Those that were connected to processes which are gone are connected no more. @returns their ids */
export async function freeOrphaned(db: Queryable): Promise<readonly string[]> {
  const freed = await db
    .update(outposts)
    .set({ processId: null })
    .where(
      and(
        isNotNull(outposts.processId),
        sql`not exists (select from server_processes where id = ${outposts.processId})`,
      ),
    )
    .returning({ id: outposts.id });
  return freed.map(({ id }) => id);
}

/** What the plant’s authority says of an outpost now; null: it has no certificate. */
export async function certifiedOf(
  db: Queryable,
  { thumbprint, authority }: Pick<OutpostRow, 'thumbprint' | 'authority'>,
): Promise<Omit<Extract<FromServer, { kind: 'enrolled' }>, 'kind'> | null> {
  if (thumbprint === null || authority === null) return null;
  const [own, issuer, [kept]] = await Promise.all([
    findCertificate(db, thumbprint),
    findCertificate(db, authority),
    db.select({ crlId: authorities.crlId }).from(authorities).where(eq(authorities.thumbprint, authority)),
  ]);
  if (!own || !issuer) return null;
  const crlId = kept?.crlId ?? null;
  const crl = crlId === null ? undefined : (await crlsBy(db, [crlId])).get(crlId);
  return {
    certificatePem: writePem('CERTIFICATE', own.der),
    authorityPem: writePem('CERTIFICATE', issuer.der),
    revokedPem: crl ? writePem('X509 CRL', crl.der) : null,
  };
}

/** As pages show them, in the order of the rows. */
export async function shownOutposts(db: Queryable, rows: readonly OutpostRow[]): Promise<readonly Outpost[]> {
  if (rows.length === 0) return [];
  const thumbprints = rows.flatMap(({ thumbprint }) => thumbprint ?? []);
  const [names, ders] = await Promise.all([
    db
      .select({ id: machines.id, name: machines.name })
      .from(machines)
      .where(inArray(machines.id, [...new Set(rows.map(({ machineId }) => machineId))])),
    thumbprints.length === 0
      ? []
      : db
          .select({ thumbprint: certificates.thumbprint, der: certificates.der })
          .from(certificates)
          .where(inArray(certificates.thumbprint, thumbprints)),
  ]);
  return Promise.all(
    rows.map(async (row): Promise<Outpost> => {
      const der = decodeBase64(ders.find(({ thumbprint }) => thumbprint === row.thumbprint)?.der ?? '');
      const read = der && der.length > 0 ? readCertificate(der) : null;
      const isTicketGood = row.ticketHash !== null && Date.parse(row.ticketUntil ?? '') > Date.now();
      return {
        id: row.id,
        kind: row.kind,
        name: row.name,
        machineId: row.machineId,
        machine: names.find(({ id }) => id === row.machineId)?.name ?? row.machineId,
        state: row.isAsking
          ? 'asks'
          : isHere(row)
            ? 'here'
            : row.heardAt !== null
              ? 'away'
              : row.thumbprint === null
                ? 'new'
                : 'certified',
        ticketUntil: isTicketGood && row.ticketUntil !== null ? new Date(row.ticketUntil).toISOString() : null,
        asksWithKey: row.isAsking ? await keyOfRequest(row.request) : null,
        thumbprint: row.thumbprint,
        notAfter: read?.ok ? new Date(read.certificate.notAfter).toISOString() : null,
        heardAt: row.heardAt === null ? null : new Date(row.heardAt).toISOString(),
        address: row.address,
      };
    }),
  );
}

/** Whether an outpost is connected now, to whichever process. */
export const isHere = ({ processId, heardAt }: Pick<OutpostRow, 'processId' | 'heardAt'>): boolean =>
  processId !== null && heardAt !== null && Date.now() - Date.parse(heardAt) < 4 * aliveMs;

/** SHA-256 of the public key (SubjectPublicKeyInfo) of a request, in hexadecimal digits. */
export async function keyOfRequest(request: string | null): Promise<string | null> {
  const der = request === null ? null : decodeBase64(request);
  const read = der ? await readSigningRequest(der) : null;
  return read?.ok ? createHash('sha256').update(read.request.publicKey).digest('hex').toUpperCase() : null;
}
