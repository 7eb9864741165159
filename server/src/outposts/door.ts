import { createHash } from 'node:crypto';
import { createServer } from 'node:tls';
import type { Server, TLSSocket } from 'node:tls';
import { sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import { readCertificate, readPem, writePem } from '@loyal-hinge/core';
import { exportKey, freshSerialNumber, issueApplicationCertificate, makeKeys } from '@loyal-hinge/core/issuing';
import { fromOutpost, outpostProtocol } from '@loyal-hinge/contract/line';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import { Talk } from '@loyal-hinge/outpost';
import { findCertificate } from '../certificates/store.js';
import type { Database } from '../database/database.js';
import type { Notices } from '../events/notices.js';
import type { SecretStore } from '../secrets/sealing.js';
import type { Door, Enrolment } from './enrolment.js';
import type { OutpostLines, OutpostTalk } from './lines.js';
import { certifiedOf, findOutpost, outpostWithCertificate } from './store.js';
import { isRevoked } from './revoked.js';

const secretName = 'key by which outposts know this server';
const validMs = 20 * 365 * 86_400_000;
/** Whoever hasn’t said who they are by then is cut off. */
const patienceMs = 10_000;
const mostConnections = 512;

/**
 * Where outposts come in, over TLS 1.3: one that is known shows its certificate, one that is not asks with its ticket. The door has
 * a certificate of its own, which tickets name; it outlives changes of the one by which browsers know the server.
 */
export class OutpostDoor implements Door {
  private server: Server | null = null;
  /** Those that asked with a ticket, and wait until somebody has signed. */
  private readonly waiting = new Map<string, OutpostTalk>();
  says: string | null = null;

  private constructor(
    private readonly db: Database,
    private readonly lines: OutpostLines,
    private readonly enrolment: Enrolment,
    private readonly logger: Logger,
    private readonly own: { readonly key: string; readonly cert: string },
  ) {}

  static async open(
    { host, port }: { readonly host: string; readonly port: number },
    db: Database,
    secrets: SecretStore,
    lines: OutpostLines,
    enrolment: Enrolment,
    notices: Notices,
    logger: Logger,
  ): Promise<OutpostDoor> {
    const door = new OutpostDoor(db, lines, enrolment, logger, await ownOf(db, secrets));
    await door.listen(host, port);
    notices.hear((notice) => {
      if (notice.kind === 'outpost') void door.look(notice.outpostId);
    });
    return door;
  }

  get port(): number | null {
    const address = this.server?.address();
    return typeof address === 'object' && address !== null ? address.port : null;
  }

  /** SHA-256 of its certificate. */
  get fingerprint(): string {
    const read = readPem(this.own.cert);
    return createHash('sha256')
      .update((read.ok && read.blocks[0]?.der) || '')
      .digest('hex')
      .toUpperCase();
  }

  stop(): void {
    this.server?.close();
    for (const talk of this.waiting.values()) talk.close();
  }

  private async listen(host: string, port: number): Promise<void> {
    const server = createServer({
      ...this.own,
      minVersion: 'TLSv1.3',
      requestCert: true,
      /* Who it is, is looked up: whose certificate is known needs no chain. */
      rejectUnauthorized: false,
      ALPNProtocols: [outpostProtocol],
      handshakeTimeout: patienceMs,
    });
    server.maxConnections = mostConnections;
    server.on('secureConnection', (socket) => this.met(socket));
    server.on('tlsClientError', () => undefined);
    await new Promise<void>((resolve) => {
      server.once('error', (error: NodeJS.ErrnoException) => {
        this.says =
          error.code === 'EADDRINUSE'
            ? `Port ${port} of ${host} is taken. Set HINGE_OUTPOST_PORT to another one, and start the server again.`
            : `It can’t listen at ${host} port ${port}: ${error.message}.`;
        this.logger.warn({ reason: this.says }, 'outposts can’t reach this server');
        resolve();
      });
      server.listen(port, host, () => {
        server.removeAllListeners('error');
        server.on('error', () => undefined);
        this.server = server;
        resolve();
      });
    });
  }

  private met(socket: TLSSocket): void {
    let id: string | null = null;
    let work: Promise<void> = Promise.resolve();
    const late = setTimeout(() => socket.destroy(), patienceMs);
    const talk: OutpostTalk = new Talk<FromOutpost, FromServer>(
      socket,
      fromOutpost,
      {
        heard: (message) => {
          clearTimeout(late);
          work = work
            .then(async () => {
              id = id === null ? await this.begins(socket, talk, message) : await this.goesOn(id, talk, message);
            })
            .catch((error: unknown) => {
              this.logger.warn({ reason: String(error) }, 'an outpost could not be heard');
              talk.close();
            });
        },
        gone: () => {
          clearTimeout(late);
          void work.then(() => this.gone(id, talk)).catch(() => undefined);
        },
      },
      { kind: 'alive' },
    );
  }

  /** The first message says who it is. @returns its id; null: it is not let in */
  private async begins(socket: TLSSocket, talk: OutpostTalk, message: FromOutpost): Promise<string | null> {
    if (message.kind === 'enrol') return this.asks(talk, message);
    const met = message.kind === 'here' ? await this.whoIs(socket) : 'It does not say who it is.';
    if (typeof met === 'string') {
      talk.close({ kind: 'refused', says: met });
      return null;
    }
    await this.lines.arrive(met.outpost, met.thumbprint, talk, socket.remoteAddress ?? '');
    return met.outpost.id;
  }

  private async goesOn(id: string, talk: OutpostTalk, message: FromOutpost): Promise<string> {
    if (this.waiting.get(id) === talk) return id;
    if (message.kind === 'renew') {
      const row = await findOutpost(this.db, id);
      if (row) await this.enrolment.askAgain(row, message.requestPem);
    } else await this.lines.heard(id, message);
    return id;
  }

  private async asks(
    talk: OutpostTalk,
    { secret, requestPem }: Extract<FromOutpost, { kind: 'enrol' }>,
  ): Promise<string | null> {
    const asked = await this.enrolment.ask(secret, requestPem);
    if (typeof asked === 'string') {
      talk.close({ kind: 'refused', says: asked });
      return null;
    }
    this.waiting.get(asked.id)?.close();
    this.waiting.set(asked.id, talk);
    talk.say({ kind: 'wait', says: 'The request waits to be signed.' });
    await this.look(asked.id);
    return asked.id;
  }

  /** Whether somebody has signed for one that waits. */
  private async look(id: string): Promise<void> {
    const talk = this.waiting.get(id);
    if (!talk) return;
    const row = await findOutpost(this.db, id);
    if (!row || row.ticketHash === null) {
      this.waiting.delete(id);
      talk.close({ kind: 'refused', says: 'The request was refused. Ask for a new ticket.' });
      return;
    }
    const certified = row.isAsking ? null : await certifiedOf(this.db, row);
    if (!certified) return;
    this.waiting.delete(id);
    await this.enrolment.collected(id);
    talk.close({ kind: 'enrolled', ...certified });
  }

  private async whoIs(socket: TLSSocket) {
    const { raw } = socket.getPeerCertificate() as { raw?: Buffer };
    if (!raw) return 'It shows no certificate.';
    const thumbprint = createHash('sha1').update(raw).digest('hex').toUpperCase();
    const outpost = await outpostWithCertificate(this.db, thumbprint);
    const kept = outpost ? await findCertificate(this.db, thumbprint) : null;
    if (!outpost || !kept || !raw.equals(kept.der))
      return 'No outpost with this certificate is known. If it was removed, ask for a new ticket.';
    const { notBefore, notAfter } = kept.certificate;
    if (Date.now() < notBefore || Date.now() > notAfter) return 'The certificate is not valid now.';
    if (await isRevoked(this.db, kept.certificate)) return 'The certificate is revoked.';
    return { outpost, thumbprint };
  }

  private async gone(id: string | null, talk: OutpostTalk): Promise<void> {
    if (id === null) return;
    if (this.waiting.get(id) === talk) this.waiting.delete(id);
    await this.lines.left(id, talk);
  }
}

/** The door’s own key and certificate: made once, for all processes on the same data. */
async function ownOf(db: Database, secrets: SecretStore): Promise<{ readonly key: string; readonly cert: string }> {
  return db.transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext('door of outposts'))`);
    const known = await secrets.find(tx, secretName);
    if (known !== null) return JSON.parse(known) as { key: string; cert: string };
    const keys = await makeKeys('P-256');
    const notBefore = Date.now() - 86_400_000;
    const der = await issueApplicationCertificate(
      {
        subject: { commonName: 'Loyal Hinge, for outposts', organization: '' },
        applicationUri: 'urn:loyal-hinge:door',
        hosts: [],
        publicKey: await exportKey('spki', keys.publicKey),
        serialNumber: freshSerialNumber(),
        notBefore,
        notAfter: notBefore + validMs,
      },
      { kind: 'P-256', privateKey: keys.privateKey, certificate: null },
    );
    if (!readCertificate(der).ok) throw new Error('the door’s certificate can’t be read');
    const own = {
      key: writePem('PRIVATE KEY', await exportKey('pkcs8', keys.privateKey)),
      cert: writePem('CERTIFICATE', der),
    };
    await secrets.keep(tx, secretName, JSON.stringify(own), null);
    return own;
  });
}
