import { watch } from 'node:fs';
import type { FSWatcher } from 'node:fs';
import { createServer as createEntrance } from 'node:net';
import type { Server, Socket } from 'node:net';
import { basename, dirname, resolve } from 'node:path';
import { connect, createServer } from 'node:tls';
import type { SecureContextOptions, TLSSocket, Server as TlsServer } from 'node:tls';
import type { TunnelConfiguration, TunnelStatistics } from '@loyal-hinge/contract/line';
import { Held } from './held.js';
import { isLetInStill, secureContextOf, whoIs } from './identity.js';
import type { Peer } from './identity.js';
import { AnsweringLine, AskingLine, ofStreams } from './line.js';
import type { LineEars } from './line.js';
import { Counts } from './statistics.js';

/** Which way the streams of a connection are opened: by the end that dials, or by the one that listens. */
const onward = 'loyal-hinge-tunnel-3';
const backward = 'loyal-hinge-tunnel-back-3';
const otherVersion = 'another version of the tunnel: both ends have to be of the same.';
/** Nobody at the other end knows a way by these names (RFC 7301, no_application_protocol). */
const isOtherVersion = (error: NodeJS.ErrnoException): boolean =>
  error.code?.includes('NO_APPLICATION_PROTOCOL') === true;
const soonestMs = 250;
const latestMs = 30_000;
/** Of those that make lines; streams go within them. */
const mostConnections = 512;
/** Who opens connections and says nothing keeps others out no longer than from its own address. */
const mostFromOneAddress = 16;

/** Told in plain words what happens; keys and what streams carry are never in it. */
export type Tell = (says: string) => void;

/** Two connections that make a line together. */
interface Line {
  readonly peer: Peer;
  asking: AskingLine | null;
  answering: AnsweringLine | null;
  /** Of the two. */
  open: number;
  /** Another one stands in its place: it lets its streams end. */
  isReplaced: boolean;
  /** The far end lets its streams end. */
  isLetGo: boolean;
}

/** One end of a tunnel. */
export class TunnelEnd {
  private readonly counts = new Counts();
  private readonly entrances = new Map<string, Server>();
  private readonly held: Held;
  private readonly watchers: FSWatcher[] = [];
  private listening: TlsServer | null = null;
  /** All that are there: the one that stands, those that it has replaced, and those that don’t stand yet. */
  private readonly lines = new Set<Line>();
  private standing: Line | null = null;
  private waitMs = soonestMs;
  private again: NodeJS.Timeout | null = null;
  private isStopping = false;

  private constructor(
    configuration: TunnelConfiguration,
    private readonly folder: string,
    private readonly tell: Tell,
  ) {
    this.held = new Held(configuration);
  }

  private get configuration(): TunnelConfiguration {
    return this.held.configuration;
  }

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
    return this.configuration.entrances.map((entrance) => portOf(this.entrances.get(keyOf(entrance)) ?? null));
  }

  /** Takes no more connections, lets those that are there end, and ends what is left after a while. */
  async stop(): Promise<void> {
    this.isStopping = true;
    this.counts.isStopping = true;
    if (this.again) clearTimeout(this.again);
    for (const watcher of this.watchers) watcher.close();
    for (const entrance of this.entrances.values()) entrance.close();
    this.listening?.close();
    const late = new Promise<void>((resolve) => setTimeout(resolve, this.configuration.limits.drainMs).unref());
    await Promise.race([Promise.all([...this.lines].map(drained)), late]);
    for (const line of this.lines) cut(line);
  }

  private async begin(): Promise<void> {
    const { meets } = this.configuration;
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
      server.on('connection', (socket) => this.count(socket));
      server.on('secureConnection', (socket) => this.met(socket));
      server.on('tlsClientError', (error, socket) => {
        if (isOtherVersion(error)) this.tell(`${socket.remoteAddress ?? 'Somebody'} speaks ${otherVersion}`);
        else this.counts.refuse('certificate not valid');
      });
      this.listening = server;
      await listen(server, meets.address, meets.port);
    }
    await this.openEntrances();
    if (meets.by === 'dialling') void this.dial();
    this.watchFiles();
  }

  /**
   * Holds another configuration from now on; streams that are open go on.
   * @returns false where it meets the other end elsewhere, or by other files: then it has to be started anew
   * @throws Error with a sentence for people where an entrance can’t be opened; the others are open
   */
  async change(next: TunnelConfiguration): Promise<boolean> {
    if (JSON.stringify(startOf(next)) !== JSON.stringify(startOf(this.configuration))) return false;
    this.held.hold(next);
    await this.openEntrances();
    await this.lookAtPeers();
    return true;
  }

  /** Opens what is not open yet, and closes what is no longer wanted. */
  private async openEntrances(): Promise<void> {
    const { entrances } = this.configuration;
    const wanted = new Set(entrances.map(keyOf));
    for (const [key, entrance] of this.entrances)
      if (!wanted.has(key)) {
        this.entrances.delete(key);
        entrance.close();
      }
    for (const entrance of entrances) {
      if (this.entrances.has(keyOf(entrance))) continue;
      const opened = createEntrance(ofStreams, (local) => this.take(local, entrance.target));
      await listen(opened, entrance.address, entrance.port);
      this.entrances.set(keyOf(entrance), opened);
    }
  }

  /** Cuts every line at whose other end somebody is who would not be let in any more. */
  private async lookAtPeers(): Promise<void> {
    for (const line of this.lines) {
      const { peer } = line;
      const letIn = await isLetInStill(peer, this.configuration, this.folder).catch(() => 'yes' as const);
      // Who dials makes a line by the new certificate; streams of the former one go on until they end.
      if (letIn === 'renewed' && line === this.standing && this.configuration.meets.by === 'dialling') void this.dial();
      if (letIn !== 'no') continue;
      this.tell(`${peer.name} is no longer let in.`);
      cut(line);
    }
  }

  private take(local: Socket, target: string): void {
    local.on('error', () => undefined);
    const asking = this.standing?.asking;
    if (asking) return asking.lead(local, target);
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
  ): Promise<{ readonly socket: TLSSocket; readonly peer: Peer; destroy(): void } | null> {
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
      socket.once('error', (error) => {
        if (isOtherVersion(error))
          this.tell(`Whoever answers at ${meets.address} port ${meets.port} speaks ${otherVersion}`);
        none();
      });
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

  /** Connections that are open, by the address that opened them. */
  private readonly openFrom = new Map<string, number>();
  private count(socket: Socket): void {
    const address = socket.remoteAddress ?? '';
    const open = (this.openFrom.get(address) ?? 0) + 1;
    this.openFrom.set(address, open);
    socket.once('close', () => {
      const left = (this.openFrom.get(address) ?? 1) - 1;
      if (left > 0) this.openFrom.set(address, left);
      else this.openFrom.delete(address);
    });
    if (open <= mostFromOneAddress) return;
    this.counts.refuse('too many connections');
    socket.destroy();
  }

  private half: { readonly peer: Peer; readonly way: string; readonly socket: TLSSocket } | null = null;
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
    if (!half || half.way === way || half.peer.fingerprint !== met.peer.fingerprint || half.socket.destroyed) {
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
  private join(peer: Peer, askingOn: TLSSocket, answeringOn: TLSSocket): void {
    const line: Line = { peer, asking: null, answering: null, open: 2, isReplaced: false, isLetGo: false };
    this.lines.add(line);
    const ears: LineEars = { letGo: () => (line.isLetGo = true), gone: () => this.gone(line) };
    line.answering = new AnsweringLine(answeringOn, this.held, this.counts, ears);
    line.asking = new AskingLine(askingOn, this.held, this.counts, { ...ears, ready: () => this.stands(line) });
  }

  private stands(line: Line): void {
    const former = this.standing;
    this.standing = line;
    this.waitMs = soonestMs;
    this.counts.peer = line.peer.name;
    this.counts.joinedAt = new Date().toISOString();
    this.counts.joins += 1;
    this.tell(`Joined with ${line.peer.name}.`);
    if (!former) return;
    former.isReplaced = true;
    void drained(former);
  }

  /** One of a line’s two connections has ended: the other goes with it, unless either end lets the line’s streams end. */
  private gone(line: Line): void {
    line.open -= 1;
    if (line.open === 0) this.lines.delete(line);
    if (line.isReplaced) return;
    if (this.standing === line) {
      this.standing = null;
      this.counts.peer = null;
      this.counts.joinedAt = null;
      this.tell('The line is gone.');
    }
    if (!line.isLetGo) cut(line);
    if (!this.isStopping && this.standing === null && this.configuration.meets.by === 'dialling') this.dialLater();
  }

  /** New certificates count for lines that are made from now on; the end that dials makes one at once. */
  private watchFiles(): void {
    const { certificateFile, revokedFile } = this.configuration;
    this.watchFile(certificateFile, () => this.takeCertificates());
    if (revokedFile !== undefined)
      this.watchFile(revokedFile, async () => {
        this.listening?.setSecureContext(await secureContextOf(this.configuration, this.folder));
        await this.lookAtPeers();
      });
  }

  private async takeCertificates(): Promise<void> {
    this.listening?.setSecureContext(await secureContextOf(this.configuration, this.folder));
    this.tell('New certificates are used from now on.');
    if (this.configuration.meets.by === 'dialling') void this.dial();
  }

  /** A file may be written over, or another one moved to its place: the folder tells of both. */
  private watchFile(file: string, changed: () => Promise<void>): void {
    const path = resolve(this.folder, file);
    let settle: NodeJS.Timeout | null = null;
    const watcher = watch(dirname(path), (_, name) => {
      if (name !== null && name !== basename(path)) return;
      if (settle) clearTimeout(settle);
      settle = setTimeout(() => {
        changed().catch(() => this.tell(`${file} can’t be used: the former one stays in use.`));
      }, 200);
    });
    watcher.on('error', () => undefined);
    this.watchers.push(watcher);
  }
}

const drained = async ({ asking, answering }: Line): Promise<void> =>
  void (await Promise.all([asking?.drain(), answering?.drain()]));
function cut({ asking, answering }: Line): void {
  asking?.end();
  answering?.end();
}

const keyOf = ({ address, port, target }: TunnelConfiguration['entrances'][number]): string =>
  `${address} ${port} ${target}`;

/** What can’t change while an end runs. */
const startOf = ({ name, meets, certificateFile, keyFile, authorityFile, revokedFile }: TunnelConfiguration) => ({
  name,
  meets,
  certificateFile,
  keyFile,
  authorityFile,
  revokedFile,
});

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
