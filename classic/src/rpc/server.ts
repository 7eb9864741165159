import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';
import type { AddressInfo, Server, Socket } from 'node:net';
import { WireFault } from '../octets/wire-fault.js';
import { Framing } from './framing.js';
import {
  abstractSyntaxUnknown,
  accepted,
  ndr,
  noSyntax,
  pduFlags,
  readPdu,
  refusedByProvider,
  sameSyntax,
  transferSyntaxUnknown,
  writePdu,
} from './pdu.js';
import type { ContextOffer, ContextResult, PduOf, Saying, Syntax } from './pdu.js';
import { RpcFault, faults } from './problems.js';
import { writeProtected } from './protection.js';
import type { Protection } from './protection.js';
import { callerOf, ServerSecurity } from './server-security.js';
import type { Coming } from './server-security.js';
import { levels } from './security.js';
import type { Agreeing, Caller } from './security.js';

/** A call as it arrives. */
export interface RpcCall {
  readonly operation: number;
  readonly object: string | null;
  readonly stub: Uint8Array;
  readonly isLittleEndian: boolean;
  readonly caller: Caller;
}

/** An interface that a server has. A call that throws {@link RpcFault} is answered by it; a stub that is none, by “bad stub”. */
export interface RpcInterface {
  readonly syntax: Syntax;
  call(call: RpcCall): Promise<Uint8Array>;
}

export interface RpcServing {
  readonly address: string;
  /** 0: any that is free. */
  readonly port: number;
  readonly find: (syntax: Syntax) => RpcInterface | null;
  /** How whoever binds is recognised, by the number of the service. */
  readonly agreeing?: Readonly<Record<number, Agreeing>>;
  readonly limits?: Partial<Limits>;
}

interface Limits {
  readonly connections: number;
  /** How long a PDU, or a call, may be under way. */
  readonly halfMs: number;
  /** How long a connection may say nothing. */
  readonly idleMs: number;
  /** Octets of a call, put together. */
  readonly stub: number;
}
const usual: Limits = { connections: 200, halfMs: 10_000, idleMs: 900_000, stub: 4 * 1024 * 1024 };
const longestPdu = 5840;
const shortestPdu = 1432;

/** The server’s end: listens at one address, and ends each connection that breaks the rules, and nothing else. */
export class RpcServer {
  private readonly connections = new Set<Connection>();
  private readonly server: Server;

  private constructor(readonly serving: RpcServing) {
    const limits = { ...usual, ...serving.limits };
    this.server = createServer((socket) => {
      if (this.connections.size >= limits.connections) return socket.destroy();
      const connection = new Connection(socket, serving, limits, () => this.connections.delete(connection));
      this.connections.add(connection);
      return undefined;
    });
  }

  /** @throws where the port can’t be had */
  static async listen(serving: RpcServing): Promise<RpcServer> {
    const rpc = new RpcServer(serving);
    await new Promise<void>((resolve, reject) => {
      rpc.server.once('error', reject);
      rpc.server.listen(serving.port, serving.address, () => {
        rpc.server.off('error', reject);
        rpc.server.on('error', () => undefined);
        resolve();
      });
    });
    return rpc;
  }

  get port(): number {
    return (this.server.address() as AddressInfo).port;
  }

  /** Connections that are open now. */
  get open(): number {
    return this.connections.size;
  }

  async close(): Promise<void> {
    const closed = new Promise<void>((resolve) => this.server.close(() => resolve()));
    for (const connection of this.connections) connection.end();
    await closed;
  }
}

interface Context {
  readonly id: number;
  readonly found: RpcInterface;
}
interface Half {
  readonly callId: number;
  readonly context: number;
  readonly operation: number;
  readonly object: string | null;
  readonly isLittleEndian: boolean;
  readonly parts: Uint8Array[];
  length: number;
}

class Connection {
  private readonly framing = new Framing(0xffff);
  private contexts: Context[] = [];
  private readonly security: ServerSecurity;
  private isBound = false;
  private mostSent = shortestPdu;
  private half: Half | null = null;
  private readonly work: Uint8Array[] = [];
  private isWorking = false;
  private isOver = false;
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly socket: Socket,
    private readonly serving: RpcServing,
    private readonly limits: Limits,
    private readonly ended: () => void,
  ) {
    this.security = new ServerSecurity(serving.agreeing ?? {}, socket.remoteAddress ?? '');
    socket.setNoDelay(true);
    socket.on('data', (chunk: Buffer) => this.received(chunk));
    socket.on('error', () => this.end());
    socket.on('close', () => this.end());
    this.wait();
  }

  end(): void {
    if (this.isOver) return;
    this.isOver = true;
    clearTimeout(this.timer);
    this.socket.destroy();
    this.ended();
  }

  /** A connection may say nothing for long, but not half of something. */
  private wait(): void {
    clearTimeout(this.timer);
    const isHalf = this.framing.isHalf || this.half !== null || this.security.isHalf;
    this.timer = setTimeout(() => this.end(), isHalf || !this.isBound ? this.limits.halfMs : this.limits.idleMs);
  }

  private received(chunk: Uint8Array): void {
    if (this.isOver) return;
    const wasHalf = this.framing.isHalf;
    try {
      const whole = this.framing.take(chunk);
      this.work.push(...whole);
      // Whoever sends an octet now and then gains no time by it.
      if (whole.length > 0 || !wasHalf) this.wait();
    } catch (error) {
      return this.broken(error);
    }
    // What comes meanwhile waits in the socket.
    if (this.work.length > 0) this.socket.pause();
    void this.go();
  }

  private async go(): Promise<void> {
    if (this.isWorking) return;
    this.isWorking = true;
    for (let octets = this.work.shift(); octets && !this.isOver; octets = this.work.shift()) {
      try {
        await this.take(octets);
      } catch (error) {
        this.broken(error);
      }
    }
    this.isWorking = false;
    if (!this.isOver) {
      this.socket.resume();
      this.wait();
    }
  }

  private broken(error: unknown): void {
    this.end();
    if (!(error instanceof WireFault)) throw error;
  }

  private async take(octets: Uint8Array): Promise<void> {
    if (octets[2] === 0) {
      const coming = this.security.open(octets);
      return this.request(readPdu(octets) as PduOf<'request'>, coming);
    }
    const pdu = readPdu(octets);
    switch (pdu.kind) {
      case 'bind':
        return this.bind(pdu);
      case 'alter-context':
        return this.alter(pdu);
      case 'auth3':
        return this.security.end(pdu.verifier);
      case 'co-cancel':
      case 'orphaned':
        if (this.half?.callId === pdu.callId) this.half = null;
        return;
      default:
        throw new WireFault(`A client does not send PDUs of this kind (${pdu.kind}).`, 2);
    }
  }

  private bind(pdu: PduOf<'bind' | 'alter-context'>): void {
    if (this.isBound) throw new WireFault('A connection is bound once.', 2);
    if (pdu.mostReceived < shortestPdu) return this.refuse(pdu.callId, 0);
    this.isBound = true;
    this.mostSent = Math.min(longestPdu, pdu.mostReceived);
    this.bindTo('bind-ack', pdu, pdu.flags & pduFlags.signsHeaders);
  }

  private refuse(callId: number, reason: number): void {
    this.say({ kind: 'bind-nak', flags: pduFlags.first | pduFlags.last, callId, reason });
    this.socket.end();
  }

  private alter(pdu: PduOf<'bind' | 'alter-context'>): void {
    if (!this.isBound) throw new WireFault('A connection is bound before its contexts are altered.', 2);
    this.bindTo('alter-context-response', pdu, 0);
  }

  private bindTo(
    kind: 'bind-ack' | 'alter-context-response',
    pdu: PduOf<'bind' | 'alter-context'>,
    more: number,
  ): void {
    const { verifier } = pdu;
    const begun = verifier && verifier.level !== levels.none ? this.security.begin(verifier) : null;
    if (typeof begun === 'number') return this.refuse(pdu.callId, begun);
    const said: Saying = {
      kind,
      flags: pduFlags.first | pduFlags.last | more,
      callId: pdu.callId,
      mostSent: this.mostSent,
      mostReceived: longestPdu,
      group: pdu.group === 0 ? randomInt(1, 0x7fffffff) : pdu.group,
      address: kind === 'bind-ack' ? String(this.socket.localPort ?? '') : '',
      results: pdu.contexts.map((offer) => this.resultOf(offer)),
    };
    this.socket.write(writePdu(said, begun));
  }

  private resultOf({ id, abstract, transfers }: ContextOffer): ContextResult {
    const found = this.serving.find(abstract);
    if (!found) return { result: refusedByProvider, reason: abstractSyntaxUnknown, transfer: noSyntax };
    if (!transfers.some((syntax) => sameSyntax(syntax, ndr)))
      return { result: refusedByProvider, reason: transferSyntaxUnknown, transfer: noSyntax };
    if (this.contexts.length >= 200) throw new WireFault('More contexts than anybody needs.', 2);
    this.contexts = [...this.contexts.filter((context) => context.id !== id), { id, found }];
    return { result: accepted, reason: 0, transfer: ndr };
  }

  private async request(pdu: PduOf<'request'>, coming: Coming): Promise<void> {
    if (!this.isBound) throw new WireFault('A call before the connection is bound.', 2);
    const half = this.joined(pdu);
    if (!half) return;
    this.half = null;
    const { callId, context, operation, object, isLittleEndian, parts } = half;
    const failed = (status: number) =>
      this.say({ kind: 'fault', flags: pduFlags.first | pduFlags.last, callId, context, status });
    if (coming.isRefused) return failed(faults.accessDenied);
    const found = this.contexts.find(({ id }) => id === context)?.found;
    if (!found) return failed(faults.interfaceUnknown);
    const stub = parts.length === 1 && parts[0] ? parts[0] : Buffer.concat(parts);
    clearTimeout(this.timer);
    const caller = callerOf(coming, this.socket.remoteAddress ?? '');
    try {
      const answer = await found.call({ operation, object, stub, isLittleEndian, caller });
      if (!this.isOver) this.answer(callId, context, answer, coming.protection);
    } catch (error) {
      if (error instanceof RpcFault) failed(error.status);
      else if (error instanceof WireFault) failed(faults.badStub);
      else throw error;
    }
  }

  /** Puts the fragments of a call together; null: there are more to come. */
  private joined(pdu: PduOf<'request'>): Half | null {
    const isFirst = (pdu.flags & pduFlags.first) !== 0;
    if (isFirst === (this.half !== null)) throw new WireFault('The parts of a call don’t fit together.', 3);
    const half = this.half ?? { ...pdu, parts: [], length: 0 };
    if (half.callId !== pdu.callId || half.operation !== pdu.operation)
      throw new WireFault('Parts of several calls are mixed.', 12);
    half.parts.push(pdu.stub);
    half.length += pdu.stub.length;
    if (half.length > this.limits.stub) throw new WireFault(`A call of more than ${this.limits.stub} octets.`, 16);
    this.half = half;
    return (pdu.flags & pduFlags.last) === 0 ? null : half;
  }

  private answer(callId: number, context: number, stub: Uint8Array, protection: Protection | null): void {
    const room = (this.mostSent - 24 - 4 - 8 - (protection?.security.signatureOctets ?? 0)) & ~7;
    const count = Math.max(1, Math.ceil(stub.length / room));
    for (let index = 0; index < count; index += 1) {
      const flags = (index === 0 ? pduFlags.first : 0) | (index === count - 1 ? pduFlags.last : 0);
      const part = stub.subarray(index * room, (index + 1) * room);
      this.socket.write(
        writeProtected(
          { kind: 'response', flags, callId, hint: stub.length - index * room, context, stub: part },
          protection,
        ),
      );
    }
  }

  private say(pdu: Saying): void {
    if (!this.isOver) this.socket.write(writePdu(pdu));
  }
}
