import { AsyncLocalStorage } from 'node:async_hooks';
import { Socket, isIP } from 'node:net';
import { microsecondsNow } from './night-clock.js';
import type { WrittenSegment } from './packet-file.js';
import { RecordedConnection } from './recorded-connection.js';
import type { RecordedEnd } from './recorded-connection.js';

/** What lets some connections not through. */
export interface Barrier {
  stops(from: string, to: RecordedEnd): boolean;
  /** Writes down that it dropped one. */
  note(from: RecordedEnd, to: RecordedEnd): void;
}

interface Target {
  host?: string;
  port?: number | string;
  localAddress?: string;
  lookup?: unknown;
}
type Lookup = (host: string, options: { all?: boolean }, tell: (...found: unknown[]) => void) => void;

/**
 * The network of the made-up plant within this process: connections come from the machine that speaks, names mean the plant’s
 * addresses, barriers drop what they stop, and all that is really sent is written down as packets.
 */
export class NightNetwork {
  readonly segments: WrittenSegment[] = [];
  readonly barriers = new Set<Barrier>();
  private readonly speaker = new AsyncLocalStorage<string>();
  private nextPort = 49_160;

  constructor(private readonly addresses: ReadonlyMap<string, readonly string[]>) {
    const connect = Socket.prototype.connect as (this: Socket, ...given: unknown[]) => Socket;
    const dial = (socket: Socket, given: unknown[]): Socket => this.dial(socket, given, connect);
    Socket.prototype.connect = function (this: Socket, ...given: unknown[]) {
      return dial(this, given);
    } as Socket['connect'];
  }

  /** Connections that this opens come from a machine. */
  from<Value>(address: string, act: () => Promise<Value>): Promise<Value> {
    return this.speaker.run(address, act);
  }

  resolve(name: string): readonly string[] {
    return isIP(name) ? [name] : (this.addresses.get(name.toLowerCase()) ?? []);
  }

  private dial(socket: Socket, given: unknown[], connect: (this: Socket, ...given: unknown[]) => Socket): Socket {
    const target = targetIn(given);
    const address = target?.host === undefined ? undefined : this.resolve(target.host)[0];
    const from = target?.localAddress ?? this.speaker.getStore();
    if (!target || from === undefined) return connect.apply(socket, given);
    target.localAddress = from;
    target.lookup = this.lookup;
    if (address === undefined) return connect.apply(socket, given);
    const to = { address, port: Number(target.port) };
    const barrier = [...this.barriers].find((one) => one.stops(from, to));
    if (barrier) return this.drop(socket, from, to, barrier);
    const begunAt = microsecondsNow();
    connect.apply(socket, given);
    /* Only now: connecting puts a socket’s own way of writing back in its place. */
    this.record(socket, from, to, begunAt);
    return socket;
  }

  private readonly lookup: Lookup = (host, { all }, tell) => {
    const found = this.resolve(host);
    const [first] = found;
    if (first === undefined) return tell(Object.assign(new Error(`${host} is not known`), { code: 'ENOTFOUND' }));
    return all
      ? tell(
          null,
          found.map((address) => ({ address, family: 4 })),
        )
      : tell(null, first, 4);
  };

  private drop(socket: Socket, from: string, to: RecordedEnd, barrier: Barrier): Socket {
    const client = this.unusedPort(from);
    new RecordedConnection(client, to, this.write).unanswered();
    barrier.note(client, to);
    const code = 'ETIMEDOUT';
    setTimeout(() => socket.destroy(Object.assign(new Error(`connect ${code} ${to.address}`), { code })), 5);
    return socket;
  }

  private record(socket: Socket, from: string, to: RecordedEnd, begunAt: number): void {
    let connection: RecordedConnection | null = null;
    const early: Uint8Array[] = [];
    socket.once('connect', () => {
      const { localAddress = from, localPort = 0 } = socket;
      connection = new RecordedConnection({ address: localAddress, port: localPort }, to, this.write, begunAt);
      connection.taken();
      for (const bytes of early.splice(0)) connection.sent('client', bytes);
    });
    socket.once('error', (error: NodeJS.ErrnoException) => {
      if (connection) connection.broken('server');
      else if (error.code === 'ECONNREFUSED')
        new RecordedConnection(this.unusedPort(from), to, this.write, begunAt).refused();
    });
    socket.once('close', () => {
      connection?.end('client');
      connection?.end('server');
    });
    const sending = (chunk: unknown, encoding: unknown): void => {
      const bytes = bytesOf(chunk, encoding);
      if (bytes === null) return;
      if (connection) connection.sent('client', bytes);
      else early.push(Uint8Array.from(bytes));
    };
    const { write, end, push } = socket;
    socket.write = function (this: Socket, chunk: unknown, ...rest: unknown[]) {
      sending(chunk, rest[0]);
      return (write as (...given: unknown[]) => boolean).call(this, chunk, ...rest);
    };
    socket.end = function (this: Socket, ...given: unknown[]) {
      if (typeof given[0] !== 'function') sending(given[0], given[1]);
      connection?.end('client');
      return (end as (...given: unknown[]) => Socket).call(this, ...given);
    } as Socket['end'];
    socket.push = function (this: Socket, chunk: Uint8Array | null, ...rest: []) {
      if (chunk === null) connection?.end('server');
      else connection?.sent('server', chunk);
      return push.call(this, chunk, ...rest);
    };
  }

  private readonly write = (segment: WrittenSegment): void => {
    this.segments.push(segment);
  };

  private unusedPort(address: string): RecordedEnd {
    this.nextPort = this.nextPort >= 60_000 ? 49_160 : this.nextPort + 1;
    return { address, port: this.nextPort };
  }
}

/** Where it is to go, as something that may be changed; null: not over IP. */
function targetIn(given: unknown[]): Target | null {
  let [first] = given;
  if (Array.isArray(first)) [first] = first as unknown[];
  if (typeof first === 'number') {
    const host = typeof given[1] === 'string' ? given[1] : 'localhost';
    const target = { port: first, host };
    given.splice(0, typeof given[1] === 'string' ? 2 : 1, target);
    return target;
  }
  if (typeof first !== 'object' || first === null || 'path' in first) return null;
  return first as Target;
}

function bytesOf(chunk: unknown, encoding: unknown): Uint8Array | null {
  if (chunk instanceof Uint8Array) return chunk;
  if (typeof chunk === 'string')
    return Buffer.from(chunk, typeof encoding === 'string' ? (encoding as BufferEncoding) : 'utf8');
  return null;
}
