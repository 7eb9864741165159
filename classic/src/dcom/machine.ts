import { randomBytes } from 'node:crypto';
import type { Guid } from '../octets/guid.js';
import { RpcFault, faults } from '../rpc/problems.js';
import type { Agreeing } from '../rpc/security.js';
import type { Caller } from '../rpc/security.js';
import { RpcServer } from '../rpc/server.js';
import { readMade, readWanted, remoteCreateInstance, remoteGetClassObject, writeMade } from './activation.js';
import type { Wanted } from './activation.js';
import { tcp } from './bindings.js';
import type { Bindings } from './bindings.js';
import type { ObjectExporter } from './exporter.js';
import { ComFailure, hresults, objectExporter, remoteActivator } from './interfaces.js';
import { carryOut, comInterface } from './objects.js';
import type { ComInterface, ComObject } from './objects.js';
import { spoken } from './orpc.js';
import { pingPeriodMs, pingsMissed, resolver, resolverStatus } from './resolver.js';

/** What was made of a class. */
export interface MadeObject {
  readonly exporter: ObjectExporter;
  readonly object: ComObject;
  /** The level that calls are wanted at, by its number. */
  readonly level: number;
}

export interface Machine {
  readonly address: string;
  readonly port: number;
  /** How the machine advertises itself. */
  readonly hosts: readonly string[];
  readonly agreeing?: Readonly<Record<number, Agreeing>>;
  readonly exporters: () => readonly ObjectExporter[];
  /**
   * Makes an object, or its factory.
   * @throws {ComFailure} or {RpcFault} where it does not
   */
  readonly make: (wanted: Wanted, caller: Caller, what: 'instance' | 'factory') => Promise<MadeObject>;
  readonly pingPeriodMs?: number;
}

interface PingSet {
  oids: Set<bigint>;
  pingedAt: number;
  sequence: number;
}
const [mostSets, mostInSet] = [1000, 5000];

/** The mapper of a machine: says that it is there, finds exporters, makes objects, and hears pings (MS-DCOM 3.1.2). */
export class MachineMapper {
  private readonly sets = new Map<bigint, PingSet>();
  private constructor(private readonly machine: Machine) {}
  private server: RpcServer | null = null;
  private timer: NodeJS.Timeout | undefined;

  static async start(machine: Machine): Promise<MachineMapper> {
    const mapper = new MachineMapper(machine);
    const { address, port, agreeing } = machine;
    const [finds, makes] = [mapper.finds(), mapper.makes()];
    mapper.server = await RpcServer.listen({
      address,
      port,
      ...(agreeing ? { agreeing } : {}),
      find: ({ uuid, major }) =>
        major !== 0
          ? null
          : uuid === objectExporter.uuid
            ? { syntax: objectExporter, call: (call) => finds.call(call) }
            : uuid === remoteActivator.uuid
              ? { syntax: remoteActivator, call: (call) => makes.call(call) }
              : null,
    });
    const period = machine.pingPeriodMs ?? pingPeriodMs;
    mapper.timer = setInterval(() => mapper.forgetSets(Date.now() - pingsMissed * period), period).unref();
    return mapper;
  }

  get port(): number {
    return this.server?.port ?? this.machine.port;
  }
  /** What it advertises: names and addresses without a port where it is the usual one. */
  get bindings(): Bindings {
    const { hosts, agreeing } = this.machine;
    const port = this.port === 135 ? null : this.port;
    return {
      strings: hosts.map((host) => ({ tower: tcp, host, port })),
      security: Object.keys(agreeing ?? {}).map((service) => ({ service: Number(service), principal: '' })),
    };
  }

  async close(): Promise<void> {
    clearInterval(this.timer);
    await this.server?.close();
  }

  private finds(): ComInterface {
    const found = (oxid: bigint) => {
      const exporter = this.machine.exporters().find((one) => one.oxid === oxid);
      if (!exporter) throw new ComFailure(resolverStatus.unknownOxid);
      return { bindings: exporter.bindings, remUnknown: exporter.remUnknown, level: 1, version: spoken };
    };
    return comInterface(
      objectExporter.uuid,
      carryOut(resolver.resolveOxid, ({ oxid }) => found(oxid)),
      carryOut(resolver.resolveOxid2, ({ oxid }) => found(oxid)),
      carryOut(resolver.serverAlive, () => ({})),
      carryOut(resolver.serverAlive2, () => ({ version: spoken, bindings: this.bindings, reserved: 0 })),
      carryOut(resolver.simplePing, ({ set }) => {
        const known = this.sets.get(set);
        if (!known) throw new ComFailure(resolverStatus.unknownSet);
        this.ping(known);
        return {};
      }),
      carryOut(resolver.complexPing, ({ set, sequence, added, removed }) =>
        this.complexPing(set, sequence, added ?? [], removed ?? []),
      ),
    );
  }

  private makes(): ComInterface {
    const made =
      (what: 'instance' | 'factory') =>
      async ({ wanted }: { readonly wanted: Uint8Array | null }, { caller }: { readonly caller: Caller }) => {
        if (!wanted) throw new ComFailure(hresults.invalidArgument);
        const asked = readWanted(wanted);
        const { exporter, object, level } = await this.machine.make(asked, caller, what);
        return {
          made: writeMade({
            ...placeOf(exporter),
            level,
            version: spoken,
            pointers: asked.iids.map((iid) => pointerTo(exporter, object, iid)),
          }),
        };
      };
    return comInterface(
      remoteActivator.uuid,
      carryOut(remoteCreateInstance, made('instance'), onlySome),
      carryOut(remoteGetClassObject, made('factory'), onlySome),
    );
  }

  private complexPing(set: bigint, sequence: number, added: readonly bigint[], removed: readonly bigint[]) {
    const known = set === 0n ? undefined : this.sets.get(set);
    if (set !== 0n && !known) throw new ComFailure(resolverStatus.unknownSet);
    if (!known && this.sets.size >= mostSets) throw new RpcFault(faults.outOfMemory);
    const id = known ? set : randomBytes(8).readBigUInt64LE() | 1n;
    const held = known ?? { oids: new Set<bigint>(), pingedAt: 0, sequence: 0 };
    held.sequence = sequence;
    for (const oid of added.slice(0, mostInSet - held.oids.size)) held.oids.add(oid);
    for (const oid of removed) held.oids.delete(oid);
    this.sets.set(id, held);
    this.ping(held);
    return { set: id, backOff: 0 };
  }

  private ping(set: PingSet): void {
    set.pingedAt = Date.now();
    const oids = [...set.oids];
    for (const exporter of this.machine.exporters()) exporter.pinged(oids);
  }

  private forgetSets(before: number): void {
    for (const [id, set] of this.sets) if (set.pingedAt < before) this.sets.delete(id);
  }
}

const placeOf = ({ oxid, bindings, remUnknown }: ObjectExporter) => ({ oxid, bindings, remUnknown });

function pointerTo(exporter: ObjectExporter, object: ComObject, iid: Guid) {
  try {
    return { iid, hresult: 0, pointer: exporter.marshal(object, iid) };
  } catch (error) {
    if (!(error instanceof ComFailure)) throw error;
    return { iid, hresult: error.hresult, pointer: null };
  }
}

/** Where some interfaces are not there, the call says so (MS-DCOM 3.1.2.5.2.3.3); where none is, it has failed. */
function onlySome({ made }: { readonly made: Uint8Array | null }): number {
  const pointers = made ? readMade(made).pointers : [];
  const missing = pointers.filter(({ hresult }) => hresult !== 0).length;
  if (missing === 0) return 0;
  return missing === pointers.length ? hresults.noInterface : coSomeInterfaces;
}
/** CO_S_NOTALLINTERFACES */
const coSomeInterfaces = 0x00080012;
