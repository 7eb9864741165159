import { watch } from 'node:fs';
import type { FSWatcher } from 'node:fs';
import { createServer as createEntrance } from 'node:net';
import type { Server, Socket } from 'node:net';
import { resolve } from 'node:path';
import { connect, createServer } from 'node:tls';
import type { SecureContextOptions, TLSSocket, Server as TlsServer } from 'node:tls';
import type { TunnelConfiguration } from './configuration.js';
import { secureContextOf, whoIs } from './identity.js';
import { AnsweringLine, AskingLine } from './line.js';
import { Counts } from './statistics.js';
import type { TunnelStatistics } from './statistics.js';

/** Which way the streams of a connection are opened: by the end that dials, or by the one that listens. */
const onward = 'loyal-hinge-tunnel-1';
const backward = 'loyal-hinge-tunnel-back-1';
const soonestMs = 250;
const latestMs = 30_000;
/** Of those that make lines; streams go within them. */
const mostConnections = 64;

/** Told in plain words what happens; keys and what streams carry are never in it. */
export type Tell = (says: string) => void;

/** Two connections that make a line together. */
interface Line {
  asking: AskingLine | null;
  answering: AnsweringLine | null;
  hasStood: boolean;
}

/** One end of a tunnel. */
export class TunnelEnd {
  private readonly counts = new Counts();
  private readonly entrances: Server[] = [];
  private readonly watchers: FSWatcher[] = [];
  private listening: TlsServer | null = null;
  private asking: AskingLine | null = null;
  private answering: AnsweringLine | null = null;
  private waitMs = soonestMs;
  private again: NodeJS.Timeout | null = null;
  private isStopping = false;

  private constructor(
    private readonly configuration: TunnelConfiguration,
    private readonly folder: string,
    private readonly tell: Tell,
  ) {}

  /**
   * Starts an end: it listens or dials, and opens its entrances.
   * @param folder from which the paths of its files are taken
   * @throws Error with a sentence for people where a file can’t be read or a port is taken
   */
  static async start(configuration: TunnelConfiguration, folder: string, tell: Tell): Promise<TunnelEnd> {
    const end = new TunnelEnd(configuration, folder, tell);
    try {
      await end.begin();
    } catch (error) {
      await end.stop();
      throw error;
    }
    return end;
  }

  get statistics(): TunnelStatistics {
    return this.counts.told(this.configuration.name);
  }

  /** The port at which it listens; null: it dials. */
  get port(): number | null {
    return portOf(this.listening);
  }
  /** The ports of its entrances, in their order. */
  get entrancePorts(): readonly (number | null)[] {
    return this.entrances.map(portOf);
  }

  /** Takes no more connections, lets those that are there end, and ends what is left after a while. */
  async stop(): Promise<void> {
    this.isStopping = true;
    this.counts.isStopping = true;
    if (this.again) clearTimeout(this.again);
    for (const watcher of this.watchers) watcher.close();
    for (const entrance of this.entrances) entrance.close();
    this.listening?.close();
    const lines = [this.asking, this.answering].flatMap((line) => line ?? []);
    const late = new Promise<void>((resolve) => setTimeout(resolve, this.configuration.limits.drainMs).unref());
    await Promise.race([Promise.all(lines.map((line) => line.drain())), late]);
    for (const line of lines) line.end();
  }

  private async begin(): Promise<void> {
    const { meets, entrances } = this.configuration;
    const context = await secureContextOf(this.configuration, this.folder);
    if (meets.by === 'listening') {
      const server = createServer({
        ...context,
        requestCert: true,
        rejectUnauthorized: false,
        ALPNProtocols: [onward, backward],
        handshakeTimeout: this.configuration.limits.connectMs,
      });
      server.maxConnections = mostConnections;
      server.on('secureConnection', (socket) => this.met(socket));
      server.on('tlsClientError', () => this.counts.refuse('certificate not valid'));
      this.listening = server;
      await listen(server, meets.address, meets.port);
    }
    for (const { address, port, target } of entrances) {
      const entrance = createEntrance({ allowHalfOpen: true, noDelay: true }, (local) => this.take(local, target));
      this.entrances.push(entrance);
      await listen(entrance, address, port);
    }
    if (meets.by === 'dialling') void this.dial();
    this.watchFiles();
  }

  private take(local: Socket, target: string): void {
    local.on('error', () => undefined);
    if (this.asking) return this.asking.lead(local, target);
    this.counts.refuse('no line');
    local.destroy();
  }

  /** Both connections, again and again, later each time, until they stand. */
  private async dial(): Promise<void> {
    if (this.isStopping) return;
    const [ahead, back] = await Promise.all([this.secured(onward), this.secured(backward)]);
    if (!ahead || !back || this.isStopping) {
      ahead?.destroy();
      back?.destroy();
      return this.dialLater();
    }
    this.join(ahead.peer, ahead.socket, back.socket);
  }

  private dialLater(): void {
    if (this.isStopping || this.again) return;
    const wait = this.waitMs * (0.75 + Math.random() / 2);
    this.waitMs = Math.min(this.waitMs * 2, latestMs);
    this.again = setTimeout(() => {
      this.again = null;
      void this.dial();
    }, wait);
  }

  /** A connection to the end that listens, once it is known who that is; null: there is none, or it is not the right one. */
  private async secured(
    way: string,
  ): Promise<{ readonly socket: TLSSocket; readonly peer: string; destroy(): void } | null> {
    const { meets } = this.configuration;
    const context = await secureContextOf(this.configuration, this.folder).catch(() => null);
    if (!context) return null;
    return new Promise((resolve) => {
      const socket = this.dialled(context, way);
      if (!socket) return resolve(null);
      const none = (): void => {
        socket.destroy();
        resolve(null);
      };
      socket.once('error', none);
      socket.once('timeout', none);
      socket.once('secureConnect', () => {
        socket.setTimeout(0);
        const met = whoIs(socket, this.configuration);
        if (!met.ok) {
          this.counts.refuse(met.refusal);
          this.tell(`Whoever answers at ${meets.address} port ${meets.port} is refused: ${met.refusal}.`);
          return none();
        }
        if (socket.alpnProtocol !== way) return none();
        resolve({ socket, peer: met.peer, destroy: () => socket.destroy() });
      });
    });
  }

  /** null: the files of certificates hold none that can be used. */
  private dialled(context: SecureContextOptions, way: string): TLSSocket | null {
    const { meets, limits } = this.configuration;
    try {
      return connect({
        ...context,
        host: meets.address,
        port: meets.port,
        ALPNProtocols: [way],
        rejectUnauthorized: false,
        /* Who it is, its fingerprint says; where it stands may change. */
        checkServerIdentity: () => undefined,
        timeout: limits.connectMs,
      });
    } catch {
      this.tell('The files of this end’s certificate can’t be used: no line is made by them.');
      return null;
    }
  }

  private half: { readonly peer: string; readonly way: string; readonly socket: TLSSocket } | null = null;
  /** Somebody has dialled; of the two connections that make a line, the first waits for the other. */
  private met(socket: TLSSocket): void {
    socket.on('error', () => undefined);
    const met = whoIs(socket, this.configuration);
    const way = socket.alpnProtocol;
    if (!met.ok || (way !== onward && way !== backward)) {
      if (!met.ok) {
        this.counts.refuse(met.refusal);
        this.tell(`${socket.remoteAddress ?? 'Somebody'} is refused: ${met.refusal}.`);
      }
      socket.destroy();
      return;
    }
    const { half } = this;
    if (!half || half.way === way || half.peer !== met.peer || half.socket.destroyed) {
      half?.socket.destroy();
      this.half = { peer: met.peer, way, socket };
      setTimeout(() => {
        if (this.half?.socket === socket) socket.destroy();
      }, this.configuration.limits.connectMs).unref();
      return;
    }
    this.half = null;
    const [ahead, back] = way === onward ? [socket, half.socket] : [half.socket, socket];
    /* Who listens asks on the way back, and answers on the other. */
    this.join(met.peer, back, ahead);
  }

  /** A line stands once the far end has spoken; one that stood before is given up when its streams have ended. */
  private join(peer: string, askingOn: TLSSocket, answeringOn: TLSSocket): void {
    const line: Line = { asking: null, answering: null, hasStood: false };
    const gone = (): void => this.gone(line);
    line.answering = new AnsweringLine(answeringOn, this.configuration, this.counts, gone);
    line.asking = new AskingLine(askingOn, this.configuration, this.counts, () => this.stands(line, peer), gone);
  }

  private stands(line: Line, peer: string): void {
    const former = [this.asking, this.answering];
    line.hasStood = true;
    this.asking = line.asking;
    this.answering = line.answering;
    this.waitMs = soonestMs;
    this.counts.peer = peer;
    this.counts.joinedAt = new Date().toISOString();
    this.counts.joins += 1;
    this.tell(`Joined with ${peer}.`);
    for (const each of former) void each?.drain();
  }

  /** One of a line’s two connections has ended: the other goes with it, unless the line was replaced and lets its streams end. */
  private gone({ asking, answering, hasStood }: Line): void {
    const isStanding = this.asking !== null && asking === this.asking;
    if (hasStood && this.asking !== null && !isStanding) return;
    asking?.end();
    answering?.end();
    if (isStanding) {
      this.asking = null;
      this.answering = null;
      this.counts.peer = null;
      this.counts.joinedAt = null;
      this.tell('The line is gone.');
    }
    if (!this.isStopping && this.asking === null && this.configuration.meets.by === 'dialling') this.dialLater();
  }

  /** New certificates count for lines that are made from now on; the end that dials makes one at once. */
  private watchFiles(): void {
    const { certificateFile, meets } = this.configuration;
    let settle: NodeJS.Timeout | null = null;
    const watcher = watch(resolve(this.folder, certificateFile), () => {
      if (settle) clearTimeout(settle);
      settle = setTimeout(() => {
        void secureContextOf(this.configuration, this.folder)
          .then((context) => {
            this.listening?.setSecureContext(context);
            this.tell('New certificates are used from now on.');
            if (meets.by === 'dialling') void this.dial();
          })
          .catch(() => this.tell('New certificates can’t be read: the former ones stay in use.'));
      }, 200);
    });
    watcher.on('error', () => undefined);
    this.watchers.push(watcher);
  }
}

function listen(server: Server | TlsServer, address: string, port: number): Promise<void> {
  return new Promise((done, fail) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      fail(
        new Error(
          error.code === 'EADDRINUSE'
            ? `Port ${port} of ${address} is taken: choose another, or stop what has it.`
            : `It can’t listen at ${address} port ${port}: ${error.message}.`,
        ),
      ),
    );
    server.listen(port, address, () => {
      server.removeAllListeners('error');
      server.on('error', () => undefined);
      done();
    });
  });
}

function portOf(server: Server | TlsServer | null): number | null {
  const address = server?.address();
  return typeof address === 'object' && address !== null ? address.port : null;
}
