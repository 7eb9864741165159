import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { WireFault } from '../octets/wire-fault.js';
import { Framing } from './framing.js';
import { accepted, ndr, pduFlags, readPdu, writePdu } from './pdu.js';
import type { DistributiveOmit, Pdu, PduKind, PduOf, Saying, Securing, Syntax } from './pdu.js';
import { RpcFault, RpcProblem } from './problems.js';
import type { ProblemKind } from './problems.js';
import { openProtected, writeProtected } from './protection.js';
import type { Protection } from './protection.js';
import { levels } from './security.js';
import type { ClientAgreement } from './security.js';
import { whenSilent } from './when-silent.js';

export interface Dialling {
  readonly host: string;
  readonly port: number;
  /** The address that the connection comes from; absent: whichever the system takes. */
  readonly localAddress?: string | undefined;
  readonly timeoutMs: number;
  readonly signal?: AbortSignal | undefined;
}

export interface Calling {
  readonly timeoutMs: number;
  readonly signal?: AbortSignal | undefined;
}

/** A whole call has its time, however many pieces its answer comes in. */
interface Limit {
  readonly until: number;
  readonly signal: AbortSignal | undefined;
}
const limited = ({ timeoutMs, signal }: Calling): Limit => ({ until: Date.now() + timeoutMs, signal });

/** Octets of the longest PDU that is taken, and of the longest answer that is put together of several. */
const longestPdu = 5840;
const longestAnswer = 16 * 1024 * 1024;
const shortestPdu = 1432;
const securityContext = 1;

/**
 * The client’s end of one connection (MS-RPCE 3.3.2). Calls go one after another; each has a time limit, and one that fails
 * otherwise than by a fault ends the connection, since nobody knows any more what would come over it.
 */
export class RpcClient {
  private readonly framing = new Framing(0xffff);
  private readonly contexts: { readonly syntax: Syntax; readonly id: number }[] = [];
  private protection: Protection | null = null;
  private mostSent = shortestPdu;
  private lastCall = 0;
  private nextContext = 0;
  private waiting: { take(pdu: Pdu): void; fail(problem: RpcProblem): void } | null = null;
  private turn: Promise<unknown> = Promise.resolve();
  private problem: RpcProblem | null = null;

  private constructor(private readonly socket: Socket) {
    socket.setNoDelay(true);
    socket.on('data', (chunk: Buffer) => this.received(chunk));
    socket.on('error', (error: NodeJS.ErrnoException) => this.end(new RpcProblem('ended', endedBy(error))));
    socket.on('close', () => this.end(new RpcProblem('ended', 'The peer has ended the connection.')));
  }

  /** @throws {RpcProblem} refused, unreachable, silent or cancelled */
  static connect({ host, port, localAddress, timeoutMs, signal }: Dialling): Promise<RpcClient> {
    return new Promise((resolve, reject) => {
      if (signal?.aborted) return reject(new RpcProblem('cancelled', 'Given up.'));
      const socket = connect({ host, port, ...(localAddress === undefined ? {} : { localAddress }) });
      const fail = (kind: ProblemKind, message: string) => {
        done();
        socket.destroy();
        reject(new RpcProblem(kind, message));
      };
      const place = `${host}, port ${port}`;
      const callOff = whenSilent(timeoutMs, () => fail('silent', `Nothing answers at ${place}.`));
      const given = () => fail('cancelled', 'Given up.');
      const failed = (error: NodeJS.ErrnoException) => fail(dialFailure(error), `${place}: ${dialWords(error)}.`);
      const done = () => {
        callOff();
        signal?.removeEventListener('abort', given);
        socket.removeListener('error', failed);
      };
      signal?.addEventListener('abort', given);
      socket.once('error', failed);
      socket.once('connect', () => {
        done();
        resolve(new RpcClient(socket));
      });
    });
  }

  /** The address and port of this end. */
  get localAddress(): string {
    return this.socket.localAddress ?? '';
  }
  get remoteAddress(): string {
    return this.socket.remoteAddress ?? '';
  }
  get isOpen(): boolean {
    return this.problem === null;
  }

  /**
   * Binds to interfaces, and begins to agree on security where it is wanted.
   * @returns of each interface, whether the peer has it
   * @throws {RpcProblem} bind-refused where the peer takes none of it
   */
  bind(syntaxes: readonly Syntax[], agreement: ClientAgreement | null, calling: Calling): Promise<readonly boolean[]> {
    return this.inTurn(async () => {
      const securing: Securing | null = agreement && securingOf(agreement, agreement.first);
      const flags = pduFlags.first | pduFlags.last | (agreement ? pduFlags.signsHeaders : 0);
      const offered = this.offer(syntaxes);
      const answer = await this.exchange(
        { kind: 'bind', flags, mostSent: longestPdu, mostReceived: longestPdu, group: 0, contexts: offered },
        ['bind-ack', 'bind-nak'],
        calling,
        securing,
      );
      if (answer.kind === 'bind-nak')
        throw this.ends(new RpcProblem('bind-refused', `The peer refuses to bind (${nakWords(answer.reason)}).`));
      if (answer.mostReceived < shortestPdu)
        throw this.ends(
          new RpcProblem(
            'malformed',
            `The peer takes PDUs of ${answer.mostReceived} octets, where 1432 are the least.`,
          ),
        );
      this.mostSent = Math.min(longestPdu, answer.mostReceived);
      if (agreement) this.agree(agreement, answer);
      return this.taken(syntaxes, offered, answer);
    });
  }

  /** Binds to one interface more. @throws {RpcProblem} interface-unknown */
  async alter(syntax: Syntax, calling: Calling): Promise<void> {
    if (this.has(syntax)) return;
    const [isThere] = await this.inTurn(async () => {
      if (this.has(syntax)) return [true];
      const offered = this.offer([syntax]);
      const bound = { mostSent: longestPdu, mostReceived: longestPdu, group: 0, contexts: offered };
      const answer = await this.exchange(
        { kind: 'alter-context', flags: pduFlags.first | pduFlags.last, ...bound },
        ['alter-context-response'],
        calling,
      );
      return this.taken([syntax], offered, answer);
    });
    if (!isThere) throw new RpcProblem('interface-unknown', `The peer does not have the interface ${syntax.uuid}.`);
  }

  has(syntax: Syntax): boolean {
    return this.contexts.some(
      (context) => context.syntax.uuid === syntax.uuid && context.syntax.major === syntax.major,
    );
  }

  /**
   * Calls an operation of an interface that was bound to.
   * @returns the stub of the answer, and in which order its octets are
   * @throws {RpcFault} where the peer says so, {RpcProblem} otherwise
   */
  call(
    syntax: Syntax,
    operation: number,
    stub: Uint8Array,
    { object = null, ...calling }: Calling & { readonly object?: string | null },
  ): Promise<{ readonly stub: Uint8Array; readonly isLittleEndian: boolean }> {
    return this.inTurn(() => {
      const context = this.contexts.find((one) => one.syntax.uuid === syntax.uuid && one.syntax.major === syntax.major);
      if (!context) throw new RpcProblem('interface-unknown', `The peer does not have the interface ${syntax.uuid}.`);
      const callId = ++this.lastCall;
      for (const fragment of this.fragments(callId, context.id, operation, object, stub)) this.socket.write(fragment);
      return this.answered(callId, limited(calling));
    });
  }

  /** Ends the connection. */
  close(): void {
    this.end(new RpcProblem('cancelled', 'The connection was closed here.'));
  }

  private inTurn<Result>(work: () => Promise<Result>): Promise<Result> {
    const mine = this.turn.then(() => {
      if (this.problem) throw this.problem;
      return work();
    });
    this.turn = mine.catch(() => undefined);
    return mine;
  }

  private offer(syntaxes: readonly Syntax[]) {
    return syntaxes.map((abstract) => ({ id: this.nextContext++, abstract, transfers: [ndr] }));
  }

  private taken(
    syntaxes: readonly Syntax[],
    offered: readonly { readonly id: number }[],
    answer: PduOf<'bind-ack' | 'alter-context-response'>,
  ): readonly boolean[] {
    return syntaxes.map((syntax, index) => {
      const isTaken = answer.results[index]?.result === accepted;
      const id = offered[index]?.id;
      if (isTaken && id !== undefined) this.contexts.push({ syntax, id });
      return isTaken;
    });
  }

  private agree(agreement: ClientAgreement, { verifier }: PduOf<'bind-ack'>): void {
    if (!verifier || verifier.type !== agreement.service)
      throw this.ends(
        new RpcProblem('malformed', 'The peer’s answer says nothing of security, though it was asked for.'),
      );
    const { token, security } = this.tried(() => agreement.answer(verifier.value));
    // The third leg belongs to the call of the bind, and nothing answers it.
    const flags = pduFlags.first | pduFlags.last;
    this.socket.write(writePdu({ kind: 'auth3', flags, callId: this.lastCall }, securingOf(agreement, token)));
    this.protection = { service: agreement.service, level: agreement.level, contextId: securityContext, security };
  }

  private fragments(
    callId: number,
    context: number,
    operation: number,
    object: string | null,
    stub: Uint8Array,
  ): readonly Uint8Array[] {
    // Header, object, padding, and what security adds.
    const room = (this.mostSent - 24 - 16 - 4 - 8 - (this.protection?.security.signatureOctets ?? 0)) & ~7;
    const count = Math.max(1, Math.ceil(stub.length / room));
    return Array.from({ length: count }, (_, index) => {
      const part = stub.subarray(index * room, (index + 1) * room);
      const flags = (index === 0 ? pduFlags.first : 0) | (index === count - 1 ? pduFlags.last : 0);
      const said: Saying = {
        kind: 'request',
        flags,
        callId,
        hint: stub.length - index * room,
        context,
        operation,
        object,
        stub: part,
      };
      return writeProtected(said, this.protection);
    });
  }

  private async answered(callId: number, limit: Limit) {
    const parts: Uint8Array[] = [];
    let length = 0;
    for (;;) {
      const pdu = await this.next(limit, callId);
      if (pdu.kind === 'fault') throw new RpcFault(pdu.status);
      if (pdu.kind !== 'response') throw this.ends(unexpected(pdu));
      if (((pdu.flags & pduFlags.first) !== 0) !== (parts.length === 0))
        throw this.ends(new RpcProblem('malformed', 'The parts of an answer don’t fit together.'));
      parts.push(pdu.stub);
      length += pdu.stub.length;
      if (length > longestAnswer)
        throw this.ends(new RpcProblem('malformed', 'The peer’s answer is longer than 16 MB.'));
      if ((pdu.flags & pduFlags.last) !== 0)
        return { stub: parts.length === 1 ? pdu.stub : Buffer.concat(parts), isLittleEndian: pdu.isLittleEndian };
    }
  }

  private async exchange<Kind extends PduKind>(
    pdu: DistributiveOmit<Saying, 'callId'>,
    wanted: readonly Kind[],
    calling: Calling,
    securing: Securing | null = null,
  ): Promise<PduOf<Kind>> {
    const callId = ++this.lastCall;
    this.socket.write(writePdu({ ...pdu, callId } as Saying, securing));
    const answer = await this.next(limited(calling), callId);
    if (answer.kind === 'fault') throw new RpcFault(answer.status);
    if (!(wanted as readonly PduKind[]).includes(answer.kind)) throw this.ends(unexpected(answer));
    return answer as PduOf<Kind>;
  }

  private queue: Uint8Array[] = [];

  /** The next PDU of a call, within its time. */
  private next({ until, signal }: Limit, callId: number): Promise<Pdu> {
    return new Promise<Pdu>((resolve, reject) => {
      const give = (problem: RpcProblem) => {
        this.socket.write(writePdu({ kind: 'orphaned', flags: pduFlags.first | pduFlags.last, callId }));
        this.end(problem);
      };
      const given = () => {
        this.socket.write(writePdu({ kind: 'co-cancel', flags: pduFlags.first | pduFlags.last, callId }));
        give(new RpcProblem('cancelled', 'Given up.'));
      };
      const callOff = whenSilent(Math.max(0, until - Date.now()), () =>
        give(new RpcProblem('silent', 'No answer came within the time.')),
      );
      const done = () => {
        callOff();
        signal?.removeEventListener('abort', given);
        this.waiting = null;
      };
      this.waiting = {
        take: (pdu) => {
          done();
          if (pdu.callId !== callId)
            return reject(this.ends(new RpcProblem('malformed', 'The peer answers a call that was not made.')));
          resolve(pdu);
        },
        fail: (problem) => {
          done();
          reject(problem);
        },
      };
      if (signal?.aborted) return given();
      signal?.addEventListener('abort', given);
      this.deliver();
    });
  }

  private received(chunk: Uint8Array): void {
    if (this.problem) return;
    try {
      this.queue.push(...this.framing.take(chunk));
    } catch (error) {
      return this.end(malformed(error));
    }
    this.deliver();
  }

  private deliver(): void {
    if (!this.waiting) {
      // Nobody has asked: at most one answer may wait for whoever is about to.
      if (this.queue.length > 64) this.end(new RpcProblem('malformed', 'The peer sends what nobody asked for.'));
      return;
    }
    const octets = this.queue.shift();
    if (!octets) return;
    const { waiting } = this;
    try {
      const secured = octets[2] === 0 || octets[2] === 2 || octets[2] === 3;
      if (secured) openProtected(octets, this.protection);
      waiting.take(readPdu(octets));
    } catch (error) {
      this.end(malformed(error));
    }
  }

  private tried<Result>(work: () => Result): Result {
    try {
      return work();
    } catch (error) {
      throw this.ends(malformed(error));
    }
  }

  private ends(problem: RpcProblem): RpcProblem {
    this.end(problem);
    return problem;
  }

  private end(problem: RpcProblem): void {
    if (this.problem) return;
    this.problem = problem;
    this.queue = [];
    // What was said last, such as that a call is given up, may still go out.
    this.socket.end();
    setTimeout(() => this.socket.destroy(), 200).unref();
    this.waiting?.fail(problem);
  }
}

const securingOf = ({ service, level }: ClientAgreement, token: Uint8Array): Securing => ({
  type: service,
  level: levels[level],
  contextId: securityContext,
  length: token.length,
  value: () => token,
});

function malformed(error: unknown): RpcProblem {
  if (error instanceof WireFault) return new RpcProblem('malformed', error.message);
  throw error;
}
const unexpected = (pdu: Pdu): RpcProblem =>
  new RpcProblem('malformed', `The peer answers by a PDU (${pdu.kind}) that does not fit here.`);

const endedBy = ({ code, message }: NodeJS.ErrnoException): string =>
  code === 'ECONNRESET' ? 'The peer has broken the connection off.' : `The connection was lost (${code ?? message}).`;

/** C706 12.6.3.1 and MS-RPCE 2.2.2.5, reject reasons. */
const nakReasons: Readonly<Record<number, string>> = {
  0: 'no reason given',
  1: 'it has too much to do',
  2: 'its limit is reached',
  4: 'this version of RPC is not spoken there',
  8: 'this kind of authentication is not spoken there',
  9: 'what was said of the account is not valid',
};
const nakWords = (reason: number): string => nakReasons[reason] ?? `reason ${reason}`;

const dialFailures: Readonly<Record<string, ProblemKind>> = {
  ECONNREFUSED: 'refused',
  ETIMEDOUT: 'silent',
  EADDRNOTAVAIL: 'not-bound',
};
const dialFailure = ({ code }: NodeJS.ErrnoException): ProblemKind => dialFailures[code ?? ''] ?? 'unreachable';
function dialWords({ code, message }: NodeJS.ErrnoException): string {
  if (code === 'ECONNREFUSED') return 'the port is closed';
  if (code === 'EADDRNOTAVAIL') return 'this computer does not have the address that was to be dialled from';
  return `there is no way there (${code ?? message})`;
}
