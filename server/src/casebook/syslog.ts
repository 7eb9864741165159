import { createSocket } from 'node:dgram';
import type { Socket as Datagrams } from 'node:dgram';
import { appendFileSync, mkdirSync } from 'node:fs';
import { readdir, rename, rm, stat } from 'node:fs/promises';
import { createServer } from 'node:net';
import type { Server, Socket } from 'node:net';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { syslogLine } from '@loyal-hinge/core/casebook';
import type { Database } from '../database/database.js';
import { declaredRangesOf, readSetting } from '../database/settings.js';
import { isDeclared } from '../probe/address-ranges.js';
import { RegularLook } from '../processes/regular-look.js';
import type { EvidenceKeeping } from './evidence-keeping.js';
import { SyslogMessages } from './syslog-messages.js';

const lookEveryMs = 5_000;
const mostConnections = 64;
const mostMessage = 16 << 10;
/** A connection that says nothing for so long is closed. */
const idleMs = 10 * 60_000;
/** Of what comes until it is handed over; what comes beyond it is counted, and not kept. */
const mostBytes = 64 << 20;
const bySyslog = 'syslog';
const newest = 'newest.log';

interface Listening {
  readonly at: string;
  readonly tcp: Server;
  readonly udp: Datagrams;
}

/**
 * Takes messages of syslog (RFC 5424, RFC 3164; over UDP, and over TCP as RFC 6587 has it) where that is switched on, from within the
 * declared ranges alone. What came is handed to the casebook every few minutes, as a log.
 */
export class SyslogReceiver {
  private listening: Listening | null = null;
  private readonly connections = new Set<Socket>();
  private looks: RegularLook | null = null;
  private ranges: readonly string[] = [];
  private bytes = 0;
  /** When the first of the messages came that are not handed over; null: there are none. Milliseconds since 1970. */
  private since: number | null = null;
  private dropped = 0;
  private failedAt = '';

  /** @param handOverMs so long messages are gathered */
  constructor(
    private readonly folder: string,
    private readonly db: Database,
    private readonly keeping: Pick<EvidenceKeeping, 'takeIn'>,
    private readonly logger: Logger,
    private readonly handOverMs: number,
  ) {}

  start(): void {
    mkdirSync(this.folder, { recursive: true, mode: 0o700 });
    /* What had come when the server stopped is handed over at once. */
    this.since = 0;
    this.looks = new RegularLook(
      Math.min(lookEveryMs, this.handOverMs),
      () => this.look(),
      (reason) => this.logger.warn({ reason }, 'messages of syslog could not be handed over'),
    );
    this.looks.now();
  }

  async stop(): Promise<void> {
    await this.looks?.stop();
    this.close();
  }

  private async look(): Promise<void> {
    const [wanted, ranges] = await Promise.all([readSetting(this.db, 'syslogAt'), declaredRangesOf(this.db)]);
    this.ranges = ranges;
    const at = typeof wanted === 'string' ? wanted : null;
    if (at !== (this.listening?.at ?? null)) {
      this.close();
      if (at !== null) this.listen(at);
    }
    if (this.since !== null && Date.now() - this.since >= this.handOverMs) await this.handOver();
  }

  private listen(at: string): void {
    const parts = /^\[?([^\]]+?)\]?:(\d+)$/.exec(at);
    const [host, port] = [parts?.[1] ?? '', Number(parts?.[2])];
    const failed = (error: Error): void => {
      if (this.failedAt !== at) this.logger.warn({ at, reason: error.message }, 'syslog can’t be listened to');
      this.failedAt = at;
      if (this.listening?.at === at) this.close();
    };
    const udp = createSocket(host.includes(':') ? 'udp6' : 'udp4');
    udp.on('error', failed).on('message', (message, { address }) => this.take(message, address));
    udp.bind(port, host);
    const tcp = createServer((socket) => this.hear(socket));
    tcp.on('error', failed).listen(port, host);
    this.listening = { at, tcp, udp };
  }

  private close(): void {
    for (const socket of this.connections) socket.destroy();
    this.listening?.tcp.close();
    this.listening?.udp.close();
    this.listening = null;
  }

  private hear(socket: Socket): void {
    const from = plain(socket.remoteAddress);
    if (this.connections.size >= mostConnections || !this.mayCome(from)) return void socket.destroy();
    this.connections.add(socket);
    const messages = new SyslogMessages((message) => this.take(message, from));
    socket
      .setTimeout(idleMs, () => socket.destroy())
      .on('data', (bytes: Buffer) => messages.take(bytes))
      .on('error', () => socket.destroy())
      .on('close', () => {
        messages.end();
        this.connections.delete(socket);
      });
  }

  private mayCome(address: string): boolean {
    return isDeclared(address, this.ranges);
  }

  private take(message: Uint8Array, sender: string): void {
    const from = plain(sender);
    if (!this.mayCome(from)) return;
    const text = new TextDecoder().decode(message.subarray(0, mostMessage));
    const line = syslogLine(text, from, Date.now());
    if (line === null) return;
    const bytes = Buffer.from(`${line}\n`);
    if (this.bytes + bytes.length > mostBytes) {
      this.dropped += 1;
      return;
    }
    this.bytes += bytes.length;
    this.since ??= Date.now();
    try {
      appendFileSync(join(this.folder, newest), bytes, { mode: 0o600 });
    } catch (error) {
      this.dropped += 1;
      if (this.dropped === 1) this.logger.warn({ reason: String(error) }, 'a message of syslog could not be kept');
    }
  }

  /** What has come so far is a log of its own from now on; one that could not be taken in waits for the next time. */
  private async handOver(): Promise<void> {
    this.since = null;
    this.bytes = 0;
    if (this.dropped > 0) this.logger.warn({ dropped: this.dropped }, 'messages of syslog were not kept');
    this.dropped = 0;
    const path = join(this.folder, newest);
    if ((await stat(path).catch(() => null))?.isFile())
      await rename(path, join(this.folder, `${new Date().toISOString().slice(0, 19).replace(/[T:]/g, '-')}.log`));
    for (const name of (await readdir(this.folder)).sort()) {
      if (name === newest) continue;
      try {
        await this.keeping.takeIn(join(this.folder, name), `syslog ${name}`, bySyslog);
        await rm(join(this.folder, name));
      } catch (error) {
        this.since = Date.now();
        throw error;
      }
    }
  }
}

const plain = (address: string | undefined): string => (address ?? '').replace(/^::ffff:/, '');
