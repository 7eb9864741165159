import { randomBytes, randomUUID } from 'node:crypto';
import type { Guid } from '../octets/guid.js';
import type { Syntax } from '../rpc/pdu.js';
import { RpcFault, faults } from '../rpc/problems.js';
import type { Agreeing, Caller } from '../rpc/security.js';
import { RpcServer } from '../rpc/server.js';
import type { RpcCall, RpcInterface } from '../rpc/server.js';
import { tcp } from './bindings.js';
import type { Bindings } from './bindings.js';
import { ComFailure, hresults, iids, syntaxOf } from './interfaces.js';
import { standardReference, writeObjectReference } from './object-reference.js';
import type { StandardReference } from './object-reference.js';
import { carryOut, comInterface } from './objects.js';
import type { ComInterface, ComObject } from './objects.js';
import { remUnknown } from './rem-unknown.js';
import { pingPeriodMs, pingsMissed } from './resolver.js';

export interface Exporting {
  readonly address: string;
  /** 0: any that is free. */
  readonly port: number;
  /** How it is advertised; usually its own address. */
  readonly hosts: readonly string[];
  readonly agreeing?: Readonly<Record<number, Agreeing>>;
  /** Where the resolver of this machine is; without a port it is the usual one. */
  readonly resolver: () => Bindings;
  /** Whether somebody may call. */
  readonly admits?: (caller: Caller) => boolean;
  readonly pingPeriodMs?: number;
  /** The port that is told instead of its own, where another one leads to it. */
  readonly toldPort?: number;
}

interface Exported {
  readonly oid: bigint;
  readonly object: ComObject;
  /** How many references are out, by interface pointer. */
  readonly pointers: Map<Guid, { readonly found: ComInterface; refs: number }>;
  pingedAt: number;
}

const mostObjects = 5000;
const usualRefs = 5;
const random64 = (): bigint => randomBytes(8).readBigUInt64LE();

/**
 * Lets others hold objects of this process and call them (MS-DCOM 3.1.1): counts references, and lets go what nobody has
 * released and nobody says any more that it holds.
 */
export class ObjectExporter {
  readonly oxid = random64();
  readonly remUnknown: Guid = randomUUID();
  private readonly objects = new Map<bigint, Exported>();
  private readonly byPointer = new Map<Guid, Exported>();
  private readonly known = new Set<Guid>([iids.remUnknown, iids.remUnknown2]);
  private readonly own: ComInterface;
  private readonly timer: NodeJS.Timeout;

  private constructor(
    private readonly exporting: Exporting,
    private readonly server: RpcServer,
    find: { of(syntax: Syntax): RpcInterface | null },
  ) {
    find.of = (syntax) => this.find(syntax);
    this.own = comInterface(
      iids.remUnknown,
      carryOut(remUnknown.queryInterface, ({ ipid, refs, iids: wanted }) => this.query(ipid, refs, wanted)),
      carryOut(remUnknown.addRef, ({ references }) => ({
        results: references.map(({ ipid, publicRefs }) => (this.count(ipid, publicRefs) ? 0 : hresults.invalidObject)),
      })),
      carryOut(remUnknown.release, ({ references }) => {
        for (const { ipid, publicRefs, privateRefs } of references) this.count(ipid, -(publicRefs + privateRefs));
        return {};
      }),
    );
    this.timer = setInterval(() => this.letGoUnheld(), exporting.pingPeriodMs ?? pingPeriodMs).unref();
  }

  static async start(exporting: Exporting): Promise<ObjectExporter> {
    const find: { of(syntax: Syntax): RpcInterface | null } = { of: () => null };
    const { address, port, agreeing } = exporting;
    const server = await RpcServer.listen({
      address,
      port,
      ...(agreeing ? { agreeing } : {}),
      find: (syntax) => find.of(syntax),
    });
    return new ObjectExporter(exporting, server, find);
  }

  get port(): number {
    return this.server.port;
  }
  get bindings(): Bindings {
    const { hosts, agreeing, toldPort } = this.exporting;
    const known = agreeing ? Object.keys(agreeing).map(Number) : [];
    return {
      strings: hosts.map((host) => ({ tower: tcp, host, port: toldPort ?? this.port })),
      security: known.map((service) => ({ service, principal: '' })),
    };
  }
  /** How many objects are held from outside. */
  get held(): number {
    return this.objects.size;
  }

  /** The octets of a reference to an object, which hold some references to it already. */
  marshal(object: ComObject, iid: Guid): Uint8Array {
    const found = this.pointerTo(this.exported(object), iid, usualRefs);
    if (!found) throw new ComFailure(hresults.noInterface);
    return writeObjectReference({ kind: 'standard', iid, reference: found, resolver: this.exporting.resolver() });
  }

  /** Somebody says that it holds these objects still. @returns those that are not known */
  pinged(oids: readonly bigint[]): readonly bigint[] {
    return oids.filter((oid) => {
      const exported = this.objects.get(oid);
      if (exported) exported.pingedAt = Date.now();
      return !exported;
    });
  }

  /** Takes an object away from all who hold it. */
  revoke(object: ComObject): void {
    const exported = [...this.objects.values()].find((one) => one.object === object);
    if (exported) this.drop(exported);
  }

  async close(): Promise<void> {
    clearInterval(this.timer);
    for (const exported of [...this.objects.values()]) this.drop(exported);
    await this.server.close();
  }

  private find(syntax: Syntax): RpcInterface | null {
    if (syntax.major !== 0 || !this.known.has(syntax.uuid)) return null;
    return { syntax: syntaxOf(syntax.uuid), call: (call) => this.call(syntax.uuid, call) };
  }

  private call(iid: Guid, call: RpcCall): Promise<Uint8Array> {
    if (this.exporting.admits && !this.exporting.admits(call.caller)) throw new RpcFault(faults.accessDenied);
    if (call.object === this.remUnknown || iid === iids.remUnknown || iid === iids.remUnknown2)
      return this.own.call(call);
    const exported = call.object === null ? undefined : this.byPointer.get(call.object);
    const pointer = exported && call.object !== null ? exported.pointers.get(call.object) : undefined;
    if (!pointer) throw new RpcFault(hresults.disconnected);
    if (pointer.found.iid !== iid) throw new RpcFault(hresults.invalidObject);
    return pointer.found.call(call);
  }

  private exported(object: ComObject): Exported {
    const known = [...this.objects.values()].find((one) => one.object === object);
    if (known) return known;
    if (this.objects.size >= mostObjects) throw new ComFailure(hresults.unexpected);
    const exported: Exported = { oid: random64(), object, pointers: new Map(), pingedAt: Date.now() };
    this.objects.set(exported.oid, exported);
    for (const { iid } of object.interfaces) this.known.add(iid);
    return exported;
  }

  private pointerTo(exported: Exported, iid: Guid, refs: number): StandardReference | null {
    // Everything is an IUnknown; it stands for the first interface of the object.
    const found =
      iid === iids.unknown ? exported.object.interfaces[0] : exported.object.interfaces.find((one) => one.iid === iid);
    if (!found) return null;
    const known = [...exported.pointers].find(([, pointer]) => pointer.found === found);
    const ipid = known?.[0] ?? randomUUID();
    const pointer = known?.[1] ?? { found, refs: 0 };
    pointer.refs += refs;
    exported.pointers.set(ipid, pointer);
    this.byPointer.set(ipid, exported);
    return { flags: 0, publicRefs: refs, oxid: this.oxid, oid: exported.oid, ipid };
  }

  private query(ipid: Guid, refs: number, wanted: readonly Guid[]) {
    const exported = this.byPointer.get(ipid);
    if (!exported) throw new ComFailure(hresults.invalidObject);
    const some = Math.min(Math.max(refs, 1), 1000);
    const results = wanted.map((iid) => {
      const reference = this.pointerTo(exported, iid, some);
      return { hresult: reference ? 0 : hresults.noInterface, reference: reference ?? standardReference.none };
    });
    if (results.every(({ hresult }) => hresult !== 0)) throw new ComFailure(hresults.noInterface);
    return { results };
  }

  /** Counts references up or down. @returns false where there is no such pointer */
  private count(ipid: Guid, refs: number): boolean {
    const exported = this.byPointer.get(ipid);
    const pointer = exported?.pointers.get(ipid);
    if (!exported || !pointer) return false;
    pointer.refs = Math.min(pointer.refs + refs, 0xffffffff);
    if (pointer.refs <= 0) {
      exported.pointers.delete(ipid);
      this.byPointer.delete(ipid);
    }
    if (exported.pointers.size === 0) this.drop(exported);
    return true;
  }

  private letGoUnheld(): void {
    const since = Date.now() - pingsMissed * (this.exporting.pingPeriodMs ?? pingPeriodMs);
    for (const exported of [...this.objects.values()]) if (exported.pingedAt < since) this.drop(exported);
  }

  private drop(exported: Exported): void {
    if (!this.objects.delete(exported.oid)) return;
    for (const ipid of exported.pointers.keys()) this.byPointer.delete(ipid);
    exported.object.letGo?.();
  }
}
