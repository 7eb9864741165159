import { sql } from 'drizzle-orm';
import pg from 'pg';
import type { Logger } from 'pino';
import type { Queryable } from '../database/database.js';

const channel = 'hinge';
const firstWaitMs = 200;
const longestWaitMs = 5000;

/** What server processes tell one another through PostgreSQL, at once and without being kept. */
export type Notice =
  | { readonly kind: 'event' }
  | { readonly kind: 'sign-ins-ended' }
  | { readonly kind: 'cancel'; readonly checkId: string }
  /** Something is other than before that an outpost has to be told. */
  | { readonly kind: 'outpost'; readonly outpostId: string }
  /** Lists, a key or a password are other than before, of an application or a link: an outpost may have to be told. */
  | { readonly kind: 'held'; readonly subjectId: string }
  /** An outpost has to be asked something for a page. */
  | { readonly kind: 'asked'; readonly askId: string };

/** Told when the transaction is committed: streams of sessions that have ended end now, and not at their next look. */
export async function tellSignInsEnded(tx: Queryable): Promise<void> {
  await tx.execute(sql`select pg_notify(${channel}, 'sign-ins-ended')`);
}

/** Told when the transaction is committed: whichever process an outpost is connected to looks what it has to be told. */
export async function tellOutpost(tx: Queryable, outpostId: string): Promise<void> {
  await tx.execute(sql`select pg_notify(${channel}, ${`outpost ${outpostId}`})`);
}

/** Told when the transaction is committed: what is kept for an application or a link is other than before. */
export async function tellHeld(tx: Queryable, subjectId: string): Promise<void> {
  await tx.execute(sql`select pg_notify(${channel}, ${`held ${subjectId}`})`);
}

/** Told when the transaction is committed: whichever process the outpost is connected to asks it. */
export async function tellAsked(tx: Queryable, askId: string): Promise<void> {
  await tx.execute(sql`select pg_notify(${channel}, ${`asked ${askId}`})`);
}

/** Hears what other processes on the same data tell; takes the connection up again by itself when it breaks. */
export class Notices {
  private client: pg.Client | null = null;
  private stopped = false;
  private readonly hearers: ((notice: Notice) => void)[] = [];
  private readonly connectors: (() => void)[] = [];

  constructor(
    private readonly databaseUrl: string,
    private readonly logger: Logger,
  ) {}

  hear(hearer: (notice: Notice) => void): void {
    this.hearers.push(hearer);
  }

  /** Called whenever it begins to hear: what was told before that was missed. */
  whenConnected(connector: () => void): void {
    this.connectors.push(connector);
  }

  async start(): Promise<void> {
    await this.connect();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    await this.client?.end().catch(() => undefined);
  }

  private async connect(): Promise<void> {
    const client = new pg.Client({
      connectionString: this.databaseUrl,
      keepAlive: true,
      connectionTimeoutMillis: 3000,
    });
    client.on('notification', ({ payload }) => this.told(payload ?? ''));
    client.on('error', (error) => this.logger.warn({ reason: error.message }, 'notices broke off'));
    client.once('end', () => void this.connectAgain());
    this.client = client;
    await client.connect();
    await client.query(`listen ${channel}`);
    for (const connector of this.connectors) connector();
  }

  private async connectAgain(): Promise<void> {
    for (let waitMs = firstWaitMs; !this.stopped; waitMs = Math.min(waitMs * 2, longestWaitMs)) {
      await new Promise((resolve) => setTimeout(resolve, waitMs));
      if (this.stopped) return;
      try {
        await this.connect();
        return;
      } catch {
        this.client?.removeAllListeners('end');
        await this.client?.end().catch(() => undefined);
      }
    }
  }

  private told(payload: string): void {
    const notice = noticeIn(payload);
    if (notice) for (const hearer of this.hearers) hearer(notice);
  }
}

function noticeIn(payload: string): Notice | null {
  const [kind, id] = payload.split(' ');
  if (kind === 'event' || kind === 'sign-ins-ended') return { kind };
  if (id === undefined) return null;
  switch (kind) {
    case 'cancel':
      return { kind, checkId: id };
    case 'outpost':
      return { kind, outpostId: id };
    case 'held':
      return { kind, subjectId: id };
    case 'asked':
      return { kind, askId: id };
    default:
      return null;
  }
}
