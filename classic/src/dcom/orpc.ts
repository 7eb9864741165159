import { conformant, guid, parameters, struct, u16, u32, unique, whole, written } from '../ndr/codec.js';
import type { Codec, ValuesOf } from '../ndr/codec.js';
import { NdrReader, NdrWriter } from '../ndr/streams.js';
import { readGuid, writeGuid } from '../octets/guid.js';
import { WireFault } from '../octets/wire-fault.js';
import { RpcFault } from '../rpc/problems.js';
import { ComFailure, hasFailed, hresults } from './interfaces.js';

/** COMVERSION (MS-DCOM 2.2.11): 5.7 is spoken here, and what understands 5.1 understands it. */
export const comVersion = struct({ major: u16, minor: u16 });
export const spoken = { major: 5, minor: 7 } as const;

interface Extent {
  readonly id: string;
  readonly octets: Uint8Array;
}
/** ORPC_EXTENT (MS-DCOM 2.2.21.2), read over: nothing of it is wanted here. */
const extent: Codec<Extent> = {
  align: 4,
  least: 24,
  none: { id: '', octets: new Uint8Array() },
  write: (writer, { id, octets }) => {
    writer.align(4);
    writer.u32((octets.length + 7) & ~7);
    writeGuid(writer, id);
    writer.u32(octets.length);
    writer.bytes(octets);
    writer.skip(((octets.length + 7) & ~7) - octets.length);
  },
  read: (reader) => {
    const count = reader.count(1);
    const id = readGuid(reader);
    const length = reader.u32();
    const all = reader.bytes(count);
    if (length > count) throw reader.fault('An extension says that it is longer than it is.');
    return () => ({ id, octets: all.subarray(0, length) });
  },
};
const extents = unique(struct({ size: u32, reserved: u32, extents: unique(conformant(unique(extent))) }));
/** ORPCTHIS and ORPCTHAT (MS-DCOM 2.2.13.3 and .4), before the parameters of each call and each answer. */
const orpcThis = parameters({
  head: struct({ version: comVersion, flags: u32, reserved: u32, causality: guid, extensions: extents }),
});
const orpcThat = parameters({ head: struct({ flags: u32, extensions: extents }) });

/** An operation: its number, its parameters both ways. */
export interface Method<In, Out> {
  readonly operation: number;
  readonly in: Codec<In>;
  readonly out: Codec<Out>;
  /** Whether it belongs to an object; else it is one of the mapper’s own, and answers without a head. */
  readonly isOfObject: boolean;
}

/* eslint-disable @typescript-eslint/no-explicit-any -- a table of codecs, each of its own type */
type AnyFields = Readonly<Record<string, Codec<any>>>;
/* eslint-enable @typescript-eslint/no-explicit-any */
type Of<Fields extends AnyFields> = ValuesOf<Fields>;

export const method = <In extends AnyFields, Out extends AnyFields>(
  operation: number,
  ins: In,
  outs: Out,
): Method<Of<In>, Of<Out>> => ({
  operation,
  in: parameters(ins),
  out: parameters(outs),
  isOfObject: true,
});
export const plainMethod = <In extends AnyFields, Out extends AnyFields>(
  operation: number,
  ins: In,
  outs: Out,
): Method<Of<In>, Of<Out>> => ({
  ...method(operation, ins, outs),
  isOfObject: false,
});

export function writeCall<In>(
  { in: ins, isOfObject }: Pick<Method<In, unknown>, 'in' | 'isOfObject'>,
  args: In,
  causality: string,
): Uint8Array {
  const writer = new NdrWriter();
  if (isOfObject) {
    const head = { version: spoken, flags: 0, reserved: 0, causality, extensions: null };
    written(orpcThis, { head }, writer);
  }
  written(ins, args, writer);
  return writer.done();
}

/** @throws {RpcFault} where the caller speaks another version, {WireFault} where it is no call of this method */
export function readCall<In>(
  { in: ins, isOfObject }: Pick<Method<In, unknown>, 'in' | 'isOfObject'>,
  stub: Uint8Array,
  isLittleEndian: boolean,
): In {
  const reader = new NdrReader(stub, isLittleEndian);
  if (isOfObject) {
    const { version } = whole(orpcThis, reader).head;
    if (version.major !== spoken.major || version.minor > spoken.minor) throw new RpcFault(hresults.versionMismatch);
  }
  return whole(ins, reader);
}

export function writeAnswer<Out>(
  { out: outs, isOfObject }: Pick<Method<unknown, Out>, 'out' | 'isOfObject'>,
  out: Out,
  hresult: number,
): Uint8Array {
  const writer = new NdrWriter();
  if (isOfObject) written(orpcThat, { head: { flags: 0, extensions: null } }, writer);
  written(outs, out, writer);
  writer.align(4);
  writer.u32(hresult >>> 0);
  return writer.done();
}

export interface Answer<Out> {
  readonly hresult: number;
  readonly out: Out;
}

/** @throws {ComFailure} where the method says that it failed, {WireFault} where it is no answer of this method */
export function readAnswer<Out>(
  { out: outs, isOfObject }: Pick<Method<unknown, Out>, 'out' | 'isOfObject'>,
  stub: Uint8Array,
  isLittleEndian: boolean,
): Answer<Out> {
  const reader = new NdrReader(stub, isLittleEndian);
  // What has failed has nothing to say, and some leave out what they should say all the same.
  const last = stub.length >= 4 ? new NdrReader(stub.subarray(stub.length - 4), isLittleEndian).u32() : null;
  const failed = last !== null && hasFailed(last) ? new ComFailure(last) : null;
  try {
    if (isOfObject) whole(orpcThat, reader);
    const out = whole(outs, reader);
    reader.align(4);
    const hresult = reader.u32();
    // What the mapper answers for itself is a status, not an HRESULT.
    if (isOfObject ? hasFailed(hresult) : hresult !== 0) throw new ComFailure(hresult);
    return { hresult, out };
  } catch (error) {
    if (failed && error instanceof WireFault) throw failed;
    throw error;
  }
}
