import { X509Certificate } from 'node:crypto';
import { fromServer } from '@loyal-hinge/contract/line';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import { dialServer } from './dial.js';
import type { OutpostFolder, Place } from './folder.js';
import { Talk } from './talk.js';
import { version } from './version.js';

const soonestMs = 500;
const latestMs = 30_000;
const lookMs = 6 * 3_600_000;

/** Whether two thirds of a certificate’s time are over. */
export function isDue(certificatePem: string, now: number): boolean {
  const { validFrom, validTo } = new X509Certificate(certificatePem);
  const [from, to] = [Date.parse(validFrom), Date.parse(validTo)];
  return now > from + ((to - from) * 2) / 3;
}

export interface PostEars {
  /** The server knows who this is, and listens. */
  welcomed(): void;
  heard(message: FromServer): void;
  /** The connection is gone; it is made again. */
  gone?(): void;
  tell(says: string): void;
}

/** The connection of an outpost to the server, made again whenever it breaks, later each time. */
export class Post {
  private talk: Talk<FromServer, FromOutpost> | null = null;
  private isWelcome = false;
  private waitMs = soonestMs;
  private again: NodeJS.Timeout | null = null;
  private readonly renewing = setInterval(() => void this.renewWhenDue(), lookMs).unref();
  private isOver = false;
  private lastTold = '';

  constructor(
    private readonly folder: OutpostFolder,
    private readonly place: Place,
    private readonly ears: PostEars,
  ) {}

  start(): void {
    void this.dial();
  }

  /** Says something, where the server listens now; otherwise nothing is kept for later. */
  say(message: FromOutpost): void {
    if (this.isWelcome) this.talk?.say(message);
  }

  stop(): void {
    this.isOver = true;
    clearInterval(this.renewing);
    if (this.again) clearTimeout(this.again);
    this.talk?.close();
  }

  private async dial(): Promise<void> {
    try {
      const credentials = await this.folder.credentials();
      const socket = await dialServer(this.place, credentials);
      if (this.isOver) {
        socket.destroy();
        return;
      }
      const talk = new Talk<FromServer, FromOutpost>(
        socket,
        fromServer,
        { heard: (message) => this.heard(message), gone: (says) => this.gone(says) },
        { kind: 'alive' },
      );
      this.talk = talk;
      talk.say({ kind: 'here', version });
    } catch (error) {
      this.gone(error instanceof Error ? error.message : String(error));
    }
  }

  private heard(message: FromServer): void {
    if (message.kind === 'refused') return this.tell(message.says);
    if (message.kind === 'removed') this.tell(message.says);
    if (message.kind === 'welcome') {
      this.isWelcome = true;
      this.waitMs = soonestMs;
      this.tell('The server is there.');
      this.ears.welcomed();
      return void this.renewWhenDue();
    }
    if (message.kind === 'certificate') {
      void this.folder
        .keep(message)
        .then(() => this.tell('A new certificate is kept.'))
        .catch((error: unknown) => this.tell(error instanceof Error ? error.message : String(error)));
      return;
    }
    this.ears.heard(message);
  }

  /** Asks for another certificate once two thirds of its time are over; somebody has to sign it. */
  private async renewWhenDue(): Promise<void> {
    try {
      const credentials = await this.folder.credentials();
      const due = credentials && isDue(credentials.certificate, Date.now());
      if (due) this.say({ kind: 'renew', requestPem: await this.folder.request(this.place.id, this.place.name) });
    } catch (error) {
      this.tell(error instanceof Error ? error.message : String(error));
    }
  }

  private gone(says: string | null): void {
    if (this.isWelcome) this.tell(says ?? 'The server has ended the connection.');
    else if (says !== null) this.tell(says);
    if (this.isWelcome) this.ears.gone?.();
    this.talk = null;
    this.isWelcome = false;
    if (this.isOver || this.again) return;
    const wait = this.waitMs * (0.75 + Math.random() / 2);
    this.waitMs = Math.min(this.waitMs * 2, latestMs);
    this.again = setTimeout(() => {
      this.again = null;
      void this.dial();
    }, wait);
  }

  /** The same thing is told once. */
  private tell(says: string): void {
    if (says !== this.lastTold) this.ears.tell(says);
    this.lastTold = says;
  }
}
