import { createHash, randomBytes } from 'node:crypto';
import { decodeBase64, encodeBase64 } from '@loyal-hinge/core';
import { readSigningRequest } from '@loyal-hinge/core/issuing';
import type { Outpost, OutpostTicket, SignOutpost, TicketWish } from '@loyal-hinge/contract';
import { outpostUri } from '@loyal-hinge/contract/line';
import { writeTicket } from '@loyal-hinge/outpost';
import { appendAudit } from '../audit/trail.js';
import { requestIn } from '../certificates/request-in.js';
import type { Database, Queryable } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { tellOutpost } from '../events/notices.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { changeOutpost, findOutpost, keyOfRequest, outpostWithTicket, shownOutposts } from './store.js';
import type { OutpostRow } from './store.js';

const hourMs = 3_600_000;
const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');

/** Signs a request with the plant’s authority. */
export interface Signs {
  sign(
    authority: string,
    request: Uint8Array,
    applicationUri: string,
    subjectId: string,
    validDays: number,
    passphrase: string,
    actor: string,
  ): Promise<{ readonly thumbprint: string }>;
}

/** Where outposts find the server. */
export interface Door {
  readonly port: number | null;
  readonly fingerprint: string;
}

/** How an outpost comes to its certificate: it asks with a ticket, once, or its request is brought by hand; somebody signs it. */
export class Enrolment {
  constructor(
    private readonly db: Database,
    private readonly signing: Signs,
    private readonly events: EventLog,
    private readonly door: () => Door | null,
    /** Another outpost that must hear of one’s certificate at once; null: none. */
    private readonly knownBy: (db: Queryable, id: string) => Promise<string | null>,
  ) {}

  async makeTicket(id: string, { address, validHours }: TicketWish, actor: string): Promise<OutpostTicket> {
    const door = this.door();
    if (!door || door.port === null)
      throw conflict(
        'No outpost can reach this server: it does not listen for them.',
        'Free its port, or set HINGE_OUTPOST_PORT, and start the server again.',
      );
    const outpost = await this.known(id);
    const secret = randomBytes(32).toString('base64url');
    const ticketUntil = new Date(Date.now() + validHours * hourMs).toISOString();
    await this.change(outpost, actor, 'outpost ticket made', { ticketUntil }, (tx) =>
      changeOutpost(tx, id, { ticketHash: hashOf(secret), ticketUntil, request: null, isAsking: false }),
    );
    const { kind, name } = outpost;
    return {
      outpost: await this.shown(id),
      ticket: writeTicket({ kind, id, name, address, port: door.port, fingerprint: door.fingerprint, secret }),
    };
  }

  /**
   * Takes the request of whoever shows a ticket. It is good for one key: the same may come again until it has its certificate.
   * @returns the outpost; a sentence where it is refused
   */
  async ask(secret: string, requestPem: string): Promise<OutpostRow | string> {
    const row = await outpostWithTicket(this.db, hashOf(secret));
    if (!row || Date.parse(row.ticketUntil ?? '') < Date.now())
      return 'This ticket was used, has expired, or never was one. Ask for a new one.';
    const request = await requestFor(row, requestPem).catch((error: unknown) =>
      error instanceof Error ? error.message : 'The request can’t be read.',
    );
    if (typeof request === 'string') return request;
    if (row.request !== null) {
      const [known, asked] = await Promise.all([keyOfRequest(row.request), keyOfRequest(encodeBase64(request))]);
      return known === asked
        ? row
        : 'Somebody else has used this ticket already. If it was not you, say so: it may have been stolen. Ask for a new one.';
    }
    await this.hasAsked(row, request, 'outpost ticket');
    return (await findOutpost(this.db, row.id)) ?? row;
  }

  /** An outpost that has a certificate asks for the next one. */
  async askAgain(row: OutpostRow, requestPem: string): Promise<void> {
    if (row.isAsking) return;
    await this.hasAsked(row, await requestFor(row, requestPem), 'outpost');
  }

  /** A request that somebody brought. */
  async bring(id: string, requestPem: string, actor: string): Promise<Outpost> {
    const row = await this.known(id);
    await this.hasAsked(row, await requestFor(row, requestPem), actor);
    return this.shown(id);
  }

  async sign(id: string, { authority, validDays, passphrase }: SignOutpost, actor: string): Promise<Outpost> {
    const row = await this.known(id);
    const request = row.request === null ? null : decodeBase64(row.request);
    if (!row.isAsking || !request) throw conflict('No request of it waits to be signed.', 'Check the present state.');
    const { thumbprint } = await this.signing.sign(
      authority,
      request,
      outpostUri(id),
      id,
      validDays,
      passphrase,
      actor,
    );
    await this.change(row, actor, 'outpost certified', { thumbprint }, async (tx) => {
      const other = await this.knownBy(tx, id);
      if (other !== null) await tellOutpost(tx, other);
      return changeOutpost(tx, id, { isAsking: false, thumbprint, authority, formerThumbprint: row.thumbprint });
    });
    return this.shown(id);
  }

  async refuse(id: string, actor: string): Promise<Outpost> {
    const row = await this.known(id);
    await this.change(row, actor, 'outpost request refused', {}, (tx) =>
      changeOutpost(tx, id, { isAsking: false, request: null, ticketHash: null, ticketUntil: null }),
    );
    return this.shown(id);
  }

  /** Its certificate has come to it: the ticket is used up. */
  async collected(id: string): Promise<void> {
    await changeOutpost(this.db, id, { ticketHash: null, ticketUntil: null });
  }

  private async hasAsked(row: OutpostRow, request: Uint8Array, actor: string): Promise<void> {
    const base64 = encodeBase64(request);
    await this.change(row, actor, 'outpost request handed in', { key: await keyOfRequest(base64) }, (tx) =>
      changeOutpost(tx, row.id, { request: base64, isAsking: true }),
    );
  }

  private async change(
    { id }: OutpostRow,
    actor: string,
    action: string,
    details: Record<string, unknown>,
    carry: (tx: Queryable) => Promise<boolean>,
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      if (!(await carry(tx))) throw notFound('outpost', id);
      await appendAudit(tx, { actor, action, subject: id, details });
      await tellOutpost(tx, id);
    });
    await this.events.tell({ kind: 'outposts-changed' });
  }

  private async known(id: string): Promise<OutpostRow> {
    const row = await findOutpost(this.db, id);
    if (!row) throw notFound('outpost', id);
    return row;
  }

  private async shown(id: string): Promise<Outpost> {
    const [view] = await shownOutposts(this.db, [await this.known(id)]);
    if (!view) throw notFound('outpost', id);
    return view;
  }
}

/** The request in a PEM text, where it is one for this outpost. @throws a problem otherwise */
async function requestFor({ id }: OutpostRow, requestPem: string): Promise<Uint8Array> {
  const der = requestIn(requestPem);
  const read = await readSigningRequest(der);
  const says = !read.ok
    ? read.says
    : read.request.applicationUris.includes(outpostUri(id))
      ? null
      : 'This request was created for another outpost.';
  if (says !== null) throw invalid(says, [{ place: 'requestPem', says }]);
  return der;
}
