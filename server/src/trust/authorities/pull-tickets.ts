import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { and, desc, eq, isNull } from 'drizzle-orm';
import { decodeBase64, encodeBase64, writePem } from '@loyal-hinge/core';
import { readSigningRequest } from '@loyal-hinge/core/issuing';
import type { MadeTicket, PullTicket, Pulled } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database, Queryable } from '../../database/database.js';
import { pullTickets } from '../../database/schema.js';
import type { EventLog } from '../../events/event-log.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { knownApplication } from '../../plant/known-application.js';
import { namesOf } from '../../plant/part.js';
import type { AuthoritySigning } from './signing.js';
import { listsOf } from '../lists/store.js';
import { requestIn } from '../../certificates/request-in.js';
import { clientsHeld, findCertificate, noteShown } from '../../certificates/store.js';

type Row = typeof pullTickets.$inferSelect;
const hourMs = 3_600_000;
const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

/**
 * The pull side: an application hands a request in with a one-time token, an engineer has it signed, and the application
 * fetches certificate and trust list. A token is good for one request and one fetch, until it expires.
 */
export class PullTickets {
  constructor(
    private readonly db: Database,
    private readonly signing: AuthoritySigning,
    private readonly events: EventLog,
  ) {}

  async all(): Promise<PullTicket[]> {
    const rows = await this.db.select().from(pullTickets).orderBy(desc(pullTickets.madeAt)).limit(200);
    return Promise.all(rows.map((row) => this.view(row)));
  }

  async make(applicationId: string, validHours: number, actor: string): Promise<MadeTicket> {
    const { name } = await knownApplication(this.db, applicationId);
    if ((await clientsHeld(this.db, [applicationId])).has(applicationId))
      throw conflict(
        `Loyal Hinge holds the key of ${name}: there is nothing to fetch for it.`,
        'Renew its certificate with a work order.',
      );
    const token = randomBytes(32).toString('base64url');
    const expiresAt = new Date(Date.now() + validHours * hourMs).toISOString();
    const id = randomUUID();
    const [row] = await this.db.transaction(async (tx) => {
      await appendAudit(tx, { actor, action: 'pull ticket made', subject: applicationId, details: { id, expiresAt } });
      return tx
        .insert(pullTickets)
        .values({ id, tokenHash: hashOf(token), applicationId, madeBy: actor, expiresAt })
        .returning();
    });
    if (!row) throw new Error('the ticket was not written');
    return { ticket: await this.view(row), token };
  }

  /** Takes a request that fits the application; a second one with the same token is refused. */
  async handIn(token: string, requestPem: string): Promise<Pulled> {
    const row = await this.ofToken(token);
    const der = requestIn(requestPem);
    const read = await readSigningRequest(der);
    if (!read.ok) throw invalid(read.says, [{ place: 'requestPem', says: read.says }]);
    const { applicationUri } = await knownApplication(this.db, row.applicationId);
    if (!read.request.applicationUris.includes(applicationUri))
      throw invalid(`The request is not for ${applicationUri}.`, [
        { place: 'requestPem', says: 'The application URI does not match.' },
      ]);
    await this.moved(row.applicationId, 'certificate request handed in', { id: row.id }, (tx) =>
      tx
        .update(pullTickets)
        .set({ request: encodeBase64(der), requestedAt: new Date().toISOString() })
        .where(and(eq(pullTickets.id, row.id), isNull(pullTickets.request)))
        .returning({ id: pullTickets.id }),
    );
    return waiting;
  }

  async sign(
    id: string,
    { authority, validDays, passphrase }: { authority: string; validDays: number; passphrase: string },
    actor: string,
  ): Promise<PullTicket> {
    const [row] = await this.db.select().from(pullTickets).where(eq(pullTickets.id, id));
    if (!row) throw notFound('ticket', id);
    const request = row.request === null ? null : decodeBase64(row.request);
    if (!request || row.thumbprint !== null)
      throw conflict('There is no request of this ticket that waits.', 'Check the present state.');
    const { applicationUri } = await knownApplication(this.db, row.applicationId);
    const signed = await this.signing.sign(
      authority,
      request,
      applicationUri,
      row.applicationId,
      validDays,
      passphrase,
      actor,
    );
    await this.moved(row.applicationId, 'request of a ticket signed', { id, thumbprint: signed.thumbprint }, (tx) =>
      tx
        .update(pullTickets)
        .set({ thumbprint: signed.thumbprint, authority })
        .where(and(eq(pullTickets.id, id), isNull(pullTickets.thumbprint)))
        .returning({ id: pullTickets.id }),
    );
    return this.view({ ...row, thumbprint: signed.thumbprint, authority });
  }

  /** Hands certificate and trust list over, once. */
  async fetch(token: string): Promise<Pulled> {
    const row = await this.ofToken(token);
    if (row.thumbprint === null || row.authority === null) return waiting;
    const [certificate, issuer, lists] = await Promise.all([
      findCertificate(this.db, row.thumbprint),
      findCertificate(this.db, row.authority),
      listsOf(this.db, row.applicationId),
    ]);
    if (!certificate || !issuer) throw notFound('certificate', row.thumbprint);
    const { thumbprint } = row;
    await this.moved(row.applicationId, 'certificate fetched with a ticket', { id: row.id, thumbprint }, async (tx) => {
      await noteShown(tx, row.applicationId, thumbprint);
      return tx
        .update(pullTickets)
        .set({ fetchedAt: new Date().toISOString() })
        .where(and(eq(pullTickets.id, row.id), isNull(pullTickets.fetchedAt)))
        .returning({ id: pullTickets.id });
    });
    const pems = (label: string, parts: readonly { readonly der: Uint8Array }[]): string[] =>
      parts.map(({ der }) => writePem(label, der));
    return {
      state: 'ready',
      certificatePem: writePem('CERTIFICATE', certificate.der),
      chainPem: writePem('CERTIFICATE', issuer.der),
      trustList: {
        trusted: pems('CERTIFICATE', lists.trusted),
        issuers: pems('CERTIFICATE', lists.issuers),
        trustedCrls: pems('X509 CRL', lists.trustedCrls),
        issuerCrls: pems('X509 CRL', lists.issuerCrls),
      },
    };
  }

  /** Changes a ticket with its line in the trail; what was changed by somebody else meanwhile is refused. */
  private async moved(
    applicationId: string,
    action: string,
    details: Record<string, unknown>,
    change: (tx: Queryable) => Promise<readonly unknown[]>,
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      if ((await change(tx)).length === 0)
        throw conflict('This ticket was used for that already.', 'Create a new one.');
      await appendAudit(tx, { actor: 'pull ticket', action, subject: applicationId, details });
    });
    await this.events.tell({ kind: 'trust-changed', applicationId });
  }

  /** The ticket of a token that is still good; whether it never was or no longer is, is not told. */
  private async ofToken(token: string): Promise<Row> {
    const [row] = await this.db
      .select()
      .from(pullTickets)
      .where(eq(pullTickets.tokenHash, hashOf(token)));
    if (!row || row.fetchedAt !== null || Date.parse(row.expiresAt) < Date.now())
      throw notFound('ticket', 'with this token, or it has been used or has expired');
    return row;
  }

  private async view(row: Row): Promise<PullTicket> {
    const names = await namesOf(this.db, [row.applicationId]);
    const der = row.request === null ? null : decodeBase64(row.request);
    const read = der ? await readSigningRequest(der) : null;
    const isOver = Date.parse(row.expiresAt) < Date.now();
    return {
      id: row.id,
      applicationId: row.applicationId,
      application: names.get(row.applicationId) ?? row.applicationId,
      madeBy: row.madeBy,
      madeAt: new Date(row.madeAt).toISOString(),
      expiresAt: new Date(row.expiresAt).toISOString(),
      state: row.fetchedAt
        ? 'fetched'
        : isOver
          ? 'expired'
          : row.thumbprint
            ? 'signed'
            : row.request
              ? 'requested'
              : 'made',
      asks: read?.ok ? `${read.request.subject.commonName}, ${read.request.hosts.join(', ')}` : null,
    };
  }
}

const waiting: Pulled = { state: 'waiting', says: 'The request waits to be signed. Ask again later.' };
