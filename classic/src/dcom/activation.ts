import { conformant, guid, i32, struct, u16, u32, u64, unique, whole, wideString, written } from '../ndr/codec.js';
import type { Codec } from '../ndr/codec.js';
import { NdrReader, NdrWriter } from '../ndr/streams.js';
import { noGuid } from '../octets/guid.js';
import type { Guid } from '../octets/guid.js';
import { WireFault } from '../octets/wire-fault.js';
import { dualStrings } from './bindings.js';
import type { Bindings } from './bindings.js';
import { iids } from './interfaces.js';
import { interfacePointer, readObjectReference, writeObjectReference } from './object-reference.js';
import { comVersion, method, spoken } from './orpc.js';

/** The properties of an activation, each known by a class (MS-DCOM 2.2.22.2). */
const property = (first: string): Guid => `${first}-0000-0000-c000-000000000046`;
const classes = {
  propertiesIn: property('00000338'),
  propertiesOut: property('00000339'),
  special: property('000001b9'),
  instantiation: property('000001ab'),
  context: property('000001a5'),
  security: property('000001a6'),
  location: property('000001a4'),
  request: property('000001aa'),
  reply: property('000001b6'),
} as const;

/** MS-DCOM 2.2.22.1: sizes and classes of what follows. */
const customHeader = struct({
  totalSize: u32,
  headerSize: u32,
  reserved: u32,
  destination: u32,
  count: u32,
  classInfo: guid,
  classes: unique(conformant(guid)),
  sizes: unique(conformant(u32)),
  more: unique(u32),
});
const special = struct({
  session: u32,
  isRemoteSession: i32,
  isImpersonating: i32,
  hasPartition: i32,
  defaultLevel: u32,
  partition: guid,
  runtimeFlags: u32,
  context: u32,
  flags: u32,
  reserved1: u32,
  reserved2: u64,
  reserved3: u32,
  reserved4: u32,
  reserved5: u32,
  reserved6: u32,
  reserved7: u32,
});
const instantiation = struct({
  classId: guid,
  context: u32,
  flags: u32,
  isSurrogate: i32,
  count: u32,
  instanceFlag: u32,
  iids: unique(conformant(guid)),
  size: u32,
  version: comVersion,
});
const context = struct({
  isClientOk: i32,
  reserved1: i32,
  reserved2: u32,
  reserved3: u32,
  client: unique(interfacePointer),
  prototype: unique(interfacePointer),
});
const serverName = struct({ reserved1: u32, name: unique(wideString), reserved2: unique(u32), reserved3: u32 });
const security = struct({ flags: u32, server: unique(serverName), reserved: unique(u32) });
const location = struct({ machine: unique(wideString), process: u32, apartment: u32, context: u32 });
const request = struct({
  reserved: unique(u32),
  request: unique(struct({ impersonation: u32, count: u16, protocols: unique(conformant(u16)) })),
});
const reply = struct({
  reserved: unique(u32),
  reply: unique(
    struct({ oxid: u64, bindings: unique(dualStrings), remUnknown: guid, level: u32, version: comVersion }),
  ),
});
const propsOut = struct({
  count: u32,
  iids: unique(conformant(guid)),
  hresults: unique(conformant(u32)),
  pointers: unique(conformant(unique(interfacePointer))),
});

/** Type serialization, version 1 (MS-RPCE 2.2.6): a head, the length, the value, filled up to eight octets. */
function serialized<Value>(codec: Codec<Value>, value: Value): Uint8Array {
  const body = new NdrWriter();
  written(codec, value, body);
  body.align(8);
  const octets = body.done();
  const writer = new NdrWriter();
  writer.bytes(Uint8Array.of(1, 0x10, 8, 0, 0xcc, 0xcc, 0xcc, 0xcc));
  writer.u32(octets.length);
  writer.u32(0);
  writer.bytes(octets);
  return writer.done();
}

function deserialized<Value>(codec: Codec<Value>, octets: Uint8Array): Value {
  const head = new NdrReader(octets);
  if (head.u8() !== 1) throw new WireFault('A property is serialized in a version that is not known.', 0);
  const isLittleEndian = (head.u8() & 0xf0) === 0x10;
  const reader = new NdrReader(octets, isLittleEndian);
  reader.skip(8);
  const length = reader.u32();
  reader.skip(4);
  return whole(codec, new NdrReader(reader.bytes(length), isLittleEndian));
}

type Property = readonly [of: Guid, octets: Uint8Array];

/** ActivationPropertiesBLOB (MS-DCOM 2.2.22) in its custom object reference. */
function toBlob(iid: Guid, clsid: Guid, destination: number, properties: readonly Property[]): Uint8Array {
  const header = (headerSize: number, totalSize: number) =>
    serialized(customHeader, {
      totalSize,
      headerSize,
      reserved: 0,
      destination,
      count: properties.length,
      classInfo: noGuid,
      classes: properties.map(([of]) => of),
      sizes: properties.map(([, octets]) => octets.length),
      more: null,
    });
  const headerSize = header(0, 0).length;
  const total = properties.reduce((sum, [, octets]) => sum + octets.length, headerSize);
  const writer = new NdrWriter();
  writer.u32(total);
  writer.u32(0);
  writer.bytes(header(headerSize, total));
  for (const [, octets] of properties) writer.bytes(octets);
  return writeObjectReference({ kind: 'custom', iid, clsid, octets: writer.done() });
}

const mostProperties = 64;

function fromBlob(pointer: Uint8Array, iid: Guid): ReadonlyMap<Guid, Uint8Array> {
  const object = readObjectReference(pointer);
  if (object.kind !== 'custom' || object.iid !== iid)
    throw new WireFault('These are no properties of an activation.', 0);
  const reader = new NdrReader(object.octets);
  reader.skip(8);
  const header = deserialized(customHeader, object.octets.subarray(reader.at));
  const { headerSize, classes: names, sizes } = header;
  if (!names || !sizes || names.length !== sizes.length || names.length > mostProperties)
    throw new WireFault('The list of the properties of an activation is broken.', reader.at);
  reader.skip(headerSize);
  return new Map(names.map((name, index) => [name, reader.bytes(sizes[index] ?? 0)]));
}

function needed(properties: ReadonlyMap<Guid, Uint8Array>, name: Guid): Uint8Array {
  const octets = properties.get(name);
  if (!octets) throw new WireFault(`The property ${name} of an activation is missing.`);
  return octets;
}

/** What somebody wants made: an object of a class, with some interfaces. */
export interface Wanted {
  readonly clsid: Guid;
  readonly iids: readonly Guid[];
}
export interface Made {
  readonly oxid: bigint;
  /** Where the object’s exporter is reached. */
  readonly bindings: Bindings;
  readonly remUnknown: Guid;
  /** The level that calls are wanted at, by its number. */
  readonly level: number;
  readonly version: { readonly major: number; readonly minor: number };
  readonly pointers: readonly { readonly iid: Guid; readonly hresult: number; readonly pointer: Uint8Array | null }[];
}

const remoteServer = 0x10;
const otherMachine = 2;
const identify = 2;

/** @param level the level of the client’s calls, by its number */
export function writeWanted({ clsid, iids: wanted }: Wanted, host: string, level: number): Uint8Array {
  return toBlob(iids.activationPropertiesIn, classes.propertiesIn, otherMachine, [
    [
      classes.special,
      serialized(special, { ...special.none, session: 0xffffffff, defaultLevel: level, context: remoteServer }),
    ],
    [
      classes.instantiation,
      serialized(instantiation, {
        classId: clsid,
        context: remoteServer,
        flags: 0,
        isSurrogate: 0,
        count: wanted.length,
        instanceFlag: 0,
        iids: wanted,
        size: 0,
        version: spoken,
      }),
    ],
    [classes.context, serialized(context, context.none)],
    [classes.security, serialized(security, { flags: 0, server: { ...serverName.none, name: host }, reserved: null })],
    [classes.location, serialized(location, location.none)],
    [
      classes.request,
      serialized(request, { reserved: null, request: { impersonation: identify, count: 1, protocols: [7] } }),
    ],
  ]);
}

const mostInterfaces = 64;

export function readWanted(pointer: Uint8Array): Wanted {
  const properties = fromBlob(pointer, iids.activationPropertiesIn);
  const { classId, iids: wanted } = deserialized(instantiation, needed(properties, classes.instantiation));
  if (!wanted || wanted.length === 0 || wanted.length > mostInterfaces)
    throw new WireFault('An activation asks for no interface, or for too many.');
  return { clsid: classId, iids: wanted };
}

export function writeMade(made: Made): Uint8Array {
  const { pointers, oxid, bindings, remUnknown, level, version } = made;
  return toBlob(iids.activationPropertiesOut, classes.propertiesOut, otherMachine, [
    [
      classes.propertiesOut,
      serialized(propsOut, {
        count: pointers.length,
        iids: pointers.map(({ iid }) => iid),
        hresults: pointers.map(({ hresult }) => hresult),
        pointers: pointers.map(({ pointer }) => pointer),
      }),
    ],
    [classes.reply, serialized(reply, { reserved: null, reply: { oxid, bindings, remUnknown, level, version } })],
  ]);
}

export function readMade(pointer: Uint8Array): Made {
  const properties = fromBlob(pointer, iids.activationPropertiesOut);
  const { iids: made, hresults, pointers } = deserialized(propsOut, needed(properties, classes.propertiesOut));
  const { reply: replied } = deserialized(reply, needed(properties, classes.reply));
  if (!replied?.bindings || !made || !hresults || !pointers)
    throw new WireFault('The answer to an activation says nothing of what was made.');
  return {
    ...replied,
    bindings: replied.bindings,
    pointers: made.map((iid, index) => ({ iid, hresult: hresults[index] ?? 0, pointer: pointers[index] ?? null })),
  };
}

/** IRemoteSCMActivator (MS-DCOM 3.1.2.5.2): made by the mapper, in the form of calls of an object. */
export const remoteGetClassObject = method(3, { wanted: unique(interfacePointer) }, { made: unique(interfacePointer) });
export const remoteCreateInstance = method(
  4,
  { outer: unique(interfacePointer), wanted: unique(interfacePointer) },
  { made: unique(interfacePointer) },
);
