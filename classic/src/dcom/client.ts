import { randomUUID } from 'node:crypto';
import { ntlmClient } from '../ntlm/client.js';
import type { Account, ToldTarget } from '../ntlm/client.js';
import type { Guid } from '../octets/guid.js';
import { WireFault } from '../octets/wire-fault.js';
import { RpcClient } from '../rpc/client.js';
import type { Calling, Dialling } from '../rpc/client.js';
import type { Syntax } from '../rpc/pdu.js';
import { RpcFault, RpcProblem } from '../rpc/problems.js';
import { levelOf, levels } from '../rpc/security.js';
import type { ClientAgreement, Level } from '../rpc/security.js';
import { readMade, remoteCreateInstance, remoteGetClassObject, writeWanted } from './activation.js';
import type { Made } from './activation.js';
import { tcp } from './bindings.js';
import type { Bindings, StringBinding } from './bindings.js';
import { ComFailure, hasFailed, hresults, iids, objectExporter, remoteActivator, syntaxOf } from './interfaces.js';
import { readObjectReference } from './object-reference.js';
import type { StandardReference } from './object-reference.js';
import { readAnswer, writeCall } from './orpc.js';
import type { Answer, Method } from './orpc.js';
import { remUnknown } from './rem-unknown.js';
import { pingPeriodMs, resolver } from './resolver.js';

/** As whom calls are made. */
export interface Identity {
  /** null: as nobody. */
  readonly account: Account | null;
  readonly level: Level;
  /** The name of the client’s machine, as it is told to the server. */
  readonly workstation: string;
}

export interface ComDialling {
  /** The server’s machine, as it is dialled. */
  readonly host: string;
  readonly mapperPort: number;
  readonly localAddress?: string | undefined;
  /** For each connection, and for each call. */
  readonly timeoutMs: number;
  readonly signal?: AbortSignal | undefined;
  readonly identity: Identity;
  /** How places that the server advertises are dialled; null: not from here. Absent: as they are advertised. */
  readonly placeOf?: (binding: StringBinding) => Promise<{ readonly host: string; readonly port: number } | null>;
  readonly told?: (target: ToldTarget) => void;
  readonly pingPeriodMs?: number;
}

const longestGoodbyeMs = 2000;

/** Connections of a client to one machine’s objects: makes them, calls them, says that it holds them, and gives them back. */
export class ComClient {
  private readonly exporters = new Map<bigint, Exporter>();
  private readonly held = new Set<RemoteObject>();
  private signedIn: Promise<RpcClient> | null = null;
  private readonly pings: PingSet;
  private isClosing = false;

  constructor(readonly dialling: ComDialling) {
    this.pings = new PingSet(this, dialling.pingPeriodMs ?? pingPeriodMs);
  }

  /** What each call is limited by. Giving back what is held goes on when somebody has given up everything else. */
  get calling(): Calling {
    const { timeoutMs, signal } = this.dialling;
    return this.isClosing ? { timeoutMs: Math.min(timeoutMs, longestGoodbyeMs) } : { timeoutMs, signal };
  }

  /** A connection to a port of the machine, or to another place. */
  connect(port: number, host = this.dialling.host): Promise<RpcClient> {
    const dialling: Dialling = { host, port, localAddress: this.dialling.localAddress, ...this.calling };
    return RpcClient.connect(dialling);
  }

  /** How the client says who it is; null: at this level nobody is asked. A password goes with each connection once. */
  agreement(service: string): ClientAgreement | null {
    const { host, identity, told } = this.dialling;
    const { account, level, workstation } = identity;
    if (level === 'none') return null;
    const targetName = `${service}/${host}`;
    return ntlmClient({ account, level, workstation, targetName, now: Date.now, ...(told ? { told } : {}) });
  }

  /** A call of an operation of the mapper, or of an object. */
  async call<In, Out>(
    connection: RpcClient,
    syntax: Syntax,
    method: Method<In, Out>,
    args: In,
    object: Guid | null = null,
  ): Promise<Answer<Out>> {
    const stub = writeCall(method, args, randomUUID());
    const answer = await connection.call(syntax, method.operation, stub, { ...this.calling, object });
    try {
      return readAnswer(method, answer.stub, answer.isLittleEndian);
    } catch (error) {
      if (error instanceof WireFault) throw new RpcProblem('malformed', `The answer can’t be read: ${error.message}`);
      throw error;
    }
  }

  /** The mapper’s connection on which the client has said who it is. */
  mapper(): Promise<RpcClient> {
    this.signedIn ??= this.signIn([objectExporter, remoteActivator]).then(({ connection }) => connection);
    return this.signedIn;
  }

  /** Signs in at the mapper. @returns which of the interfaces it has */
  async signIn(syntaxes: readonly Syntax[]) {
    const connection = await this.connect(this.dialling.mapperPort);
    try {
      const has = await connection.bind(syntaxes, this.agreement('RPCSS'), this.calling);
      return { connection, has };
    } catch (error) {
      connection.close();
      throw error;
    }
  }

  /** Keeps a connection that was signed in by hand as the mapper’s. */
  keepMapper(connection: RpcClient): void {
    this.signedIn = Promise.resolve(connection);
  }

  /**
   * Has an object made, or the factory of its class.
   * @throws {ComFailure} where the mapper says that it failed, {RpcFault} where it refuses
   */
  async make(clsid: Guid, wanted: readonly Guid[], what: 'instance' | 'factory' = 'instance'): Promise<Made> {
    const connection = await this.mapper();
    const level = levels[this.dialling.identity.level];
    const asked = writeWanted({ clsid, iids: wanted }, this.dialling.host, level);
    const answer =
      what === 'instance'
        ? await this.call(connection, remoteActivator, remoteCreateInstance, { outer: null, wanted: asked })
        : await this.call(connection, remoteActivator, remoteGetClassObject, { wanted: asked });
    const { made } = answer.out;
    if (!made) throw new RpcProblem('malformed', 'The mapper says that something was made, and not what.');
    const read = this.parsed(() => readMade(made));
    if (!this.exporters.has(read.oxid))
      this.exporters.set(read.oxid, new Exporter(this, read.bindings, read.remUnknown, levelOf(read.level)));
    return read;
  }

  /** Where an exporter is reached, as it said itself. */
  exporterOf(oxid: bigint): Exporter | null {
    return this.exporters.get(oxid) ?? null;
  }

  /** An object of a made class by one of its interfaces. @throws {ComFailure} where it doesn’t have it */
  async objectOf(made: Made, iid: Guid): Promise<RemoteObject> {
    const found = made.pointers.find((pointer) => pointer.iid === iid);
    if (!found?.pointer) throw new ComFailure(found && found.hresult !== 0 ? found.hresult : hresults.noInterface);
    return this.unmarshal(found.pointer);
  }

  /** The object that a reference stands for. @throws {RpcProblem} where it is none, or its exporter is not found */
  async unmarshal(octets: Uint8Array): Promise<RemoteObject> {
    const read = this.parsed(() => readObjectReference(octets));
    if (read.kind !== 'standard')
      throw new RpcProblem('malformed', 'The object is kept in a form of its own, and can’t be called.');
    const { reference, iid } = read;
    const exporter = this.exporters.get(reference.oxid) ?? (await this.findExporter(reference.oxid));
    return this.hold(new RemoteObject(this, exporter, reference, iid));
  }

  hold(object: RemoteObject): RemoteObject {
    this.held.add(object);
    this.pings.add(object.reference.oid);
    return object;
  }
  letGo(object: RemoteObject): void {
    this.held.delete(object);
    const { oid } = object.reference;
    if (![...this.held].some((one) => one.reference.oid === oid)) this.pings.remove(oid);
  }

  /** Gives back what is held, as far as that can be said to anybody still, and ends all connections. */
  async close(): Promise<void> {
    this.isClosing = true;
    await Promise.allSettled([...this.exporters.values()].map((exporter) => exporter.release([...this.held])));
    this.held.clear();
    this.pings.stop();
    for (const exporter of this.exporters.values()) exporter.close();
    const mapper = await this.signedIn?.catch(() => null);
    mapper?.close();
  }

  private async findExporter(oxid: bigint): Promise<Exporter> {
    const connection = await this.mapper();
    const { out } = await this.call(connection, objectExporter, resolver.resolveOxid2, {
      oxid,
      count: 1,
      protocols: [tcp],
    });
    if (!out.bindings) throw new RpcProblem('malformed', 'The mapper does not say where an object is.');
    const exporter = new Exporter(this, out.bindings, out.remUnknown, levelOf(out.level));
    this.exporters.set(oxid, exporter);
    return exporter;
  }

  private parsed<Result>(work: () => Result): Result {
    try {
      return work();
    } catch (error) {
      if (error instanceof WireFault) throw new RpcProblem('malformed', error.message);
      throw error;
    }
  }
}

/** Where the objects of one process are called. */
export class Exporter {
  private connected: Promise<RpcClient> | null = null;

  constructor(
    private readonly client: ComClient,
    readonly bindings: Bindings,
    readonly remUnknown: Guid,
    /** The level that it wants to be called at; null: it doesn’t say. */
    readonly level: Level | null,
  ) {}

  /** The places where it says that it is, for TCP. */
  get places(): readonly StringBinding[] {
    return this.bindings.strings.filter(({ tower, port }) => tower === tcp && port !== null);
  }

  /** A connection, taken up to the first place that answers. @throws {RpcProblem} of the last place where none does */
  connection(first: Syntax): Promise<RpcClient> {
    const known: Promise<RpcClient | null> = this.connected ?? Promise.resolve(null);
    this.connected = known.catch(() => null).then((open) => (open?.isOpen ? open : this.dial(first)));
    return this.connected;
  }

  async call<In, Out>(iid: Guid, ipid: Guid, method: Method<In, Out>, args: In): Promise<Answer<Out>> {
    const syntax = syntaxOf(iid);
    const connection = await this.connection(syntax);
    await connection.alter(syntax, this.client.calling);
    return this.client.call(connection, syntax, method, args, ipid);
  }

  /** Gives references back, many in one call. */
  async release(objects: readonly RemoteObject[]): Promise<void> {
    const mine = objects.filter((object) => object.exporter === this);
    if (mine.length === 0 || !this.connected) return;
    const references = mine.map(({ reference }) => ({
      ipid: reference.ipid,
      publicRefs: reference.publicRefs,
      privateRefs: 0,
    }));
    await this.call(iids.remUnknown, this.remUnknown, remUnknown.release, { count: references.length, references });
  }

  close(): void {
    void this.connected?.then((connection) => connection.close()).catch(() => undefined);
  }

  private async dial(first: Syntax): Promise<RpcClient> {
    const { placeOf } = this.client.dialling;
    let problem = new RpcProblem('unreachable', 'The server says of no place where its objects are.');
    for (const binding of this.places) {
      const place = placeOf ? await placeOf(binding) : { host: binding.host, port: binding.port ?? 0 };
      if (!place) continue;
      try {
        const connection = await this.client.connect(place.port, place.host);
        await connection.bind([first], this.client.agreement('host'), this.client.calling);
        return connection;
      } catch (error) {
        if (!(error instanceof RpcProblem) || error.kind === 'cancelled') throw error;
        problem = error;
      }
    }
    throw problem;
  }
}

/** An interface of an object somewhere else. */
export class RemoteObject {
  constructor(
    private readonly client: ComClient,
    readonly exporter: Exporter,
    readonly reference: StandardReference,
    readonly iid: Guid,
  ) {}

  /** @throws {ComFailure} where the method failed, {RpcFault} where the call was refused, {RpcProblem} where it came to nothing */
  async call<In, Out>(method: Method<In, Out>, args: In): Promise<Out & { readonly hresult: number }> {
    const { hresult, out } = await this.exporter.call(this.iid, this.reference.ipid, method, args);
    return { ...out, hresult };
  }

  /** Another of its interfaces. @throws {ComFailure} 0x80004002 where it does not have it */
  async query(iid: Guid): Promise<RemoteObject> {
    const args = { ipid: this.reference.ipid, refs: 5, count: 1, iids: [iid] };
    const { out } = await this.exporter.call(
      iids.remUnknown,
      this.exporter.remUnknown,
      remUnknown.queryInterface,
      args,
    );
    const [result] = out.results ?? [];
    if (!result) throw new RpcProblem('malformed', 'The answer to a question for an interface is empty.');
    if (hasFailed(result.hresult)) throw new ComFailure(result.hresult);
    return this.client.hold(new RemoteObject(this.client, this.exporter, result.reference, iid));
  }

  async release(): Promise<void> {
    this.client.letGo(this);
    await this.exporter.release([this]);
  }
}

/** Says now and then that objects are still held (MS-DCOM 3.2.6.1). */
class PingSet {
  private readonly oids = new Set<bigint>();
  private readonly added = new Set<bigint>();
  private readonly removed = new Set<bigint>();
  private set = 0n;
  private sequence = 0;
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly client: ComClient,
    private readonly periodMs: number,
  ) {}

  add(oid: bigint): void {
    if (this.oids.has(oid)) return;
    this.oids.add(oid);
    this.added.add(oid);
    this.removed.delete(oid);
    this.timer ??= setInterval(() => void this.ping().catch(() => undefined), this.periodMs).unref();
  }
  remove(oid: bigint): void {
    if (!this.oids.delete(oid)) return;
    if (!this.added.delete(oid)) this.removed.add(oid);
  }
  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  private async ping(): Promise<void> {
    const connection = await this.client.mapper();
    if (this.set !== 0n && this.added.size === 0 && this.removed.size === 0) {
      await this.client.call(connection, objectExporter, resolver.simplePing, { set: this.set });
      return;
    }
    const [added, removed] = [[...this.added], [...this.removed]];
    const args = {
      set: this.set,
      sequence: (this.sequence = (this.sequence + 1) & 0xffff),
      addedCount: added.length,
      removedCount: removed.length,
      added: added.length > 0 ? added : null,
      removed: removed.length > 0 ? removed : null,
    };
    const { out } = await this.client.call(connection, objectExporter, resolver.complexPing, args);
    this.set = out.set;
    for (const oid of added) this.added.delete(oid);
    for (const oid of removed) this.removed.delete(oid);
  }
}

/** Whether a call was refused, in whichever form: by a fault, or by the code of a method. */
export const isAccessDenied = (error: unknown): boolean =>
  (error instanceof RpcFault && (error.status === 5 || error.status >>> 0 === hresults.accessDenied)) ||
  (error instanceof ComFailure && error.hresult === hresults.accessDenied);
