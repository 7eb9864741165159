import { guid, u32, u64, whole, written } from '../ndr/codec.js';
import { struct } from '../ndr/codec.js';
import type { Codec, ValueOf } from '../ndr/codec.js';
import { NdrReader, NdrWriter } from '../ndr/streams.js';
import { readGuid, writeGuid } from '../octets/guid.js';
import type { Guid } from '../octets/guid.js';
import { WireFault } from '../octets/wire-fault.js';
import { readBindings, writeBindings } from './bindings.js';
import type { Bindings } from './bindings.js';

/** STDOBJREF (MS-DCOM 2.2.18.2): which interface of which object of which exporter, and how many references come with it. */
export const standardReference = struct({ flags: u32, publicRefs: u32, oxid: u64, oid: u64, ipid: guid });
export type StandardReference = ValueOf<typeof standardReference>;

/** An object reference (MS-DCOM 2.2.18). */
export type ObjectReference =
  | {
      readonly kind: 'standard';
      readonly iid: Guid;
      readonly reference: StandardReference;
      /** Where the exporter’s resolver is. */
      readonly resolver: Bindings;
    }
  | { readonly kind: 'custom'; readonly iid: Guid; readonly clsid: Guid; readonly octets: Uint8Array };

/** “MEOW” */
const signature = 0x574f454d;
const forms = { standard: 1, handler: 2, custom: 4, extended: 8 } as const;
/** The longest that is read: an object reference is some hundred octets, and with properties of an activation some thousand. */
const longest = 1024 * 1024;

/** @throws {WireFault} where it is none */
export function readObjectReference(octets: Uint8Array): ObjectReference {
  if (octets.length > longest) throw new WireFault(`An object reference of ${octets.length} octets.`, 0);
  const reader = new NdrReader(octets);
  if (reader.u32() !== signature) throw new WireFault('This is no object reference.', 0);
  const form = reader.u32();
  const iid = readGuid(reader);
  if (form === forms.custom) {
    const clsid = readGuid(reader);
    const extension = reader.u32();
    reader.skip(4);
    reader.skip(extension);
    return { kind: 'custom', iid, clsid, octets: reader.bytes(reader.left) };
  }
  if (form !== forms.standard && form !== forms.handler && form !== forms.extended)
    throw new WireFault(`An object reference of form ${form}, which is not known.`, 4);
  const reference = whole(standardReference, reader);
  if (form === forms.handler) reader.skip(16);
  if (form === forms.extended) reader.skip(4);
  return { kind: 'standard', iid, reference, resolver: readBindings(reader) };
}

export function writeObjectReference(object: ObjectReference): Uint8Array {
  const writer = new NdrWriter();
  writer.u32(signature);
  writer.u32(forms[object.kind]);
  writeGuid(writer, object.iid);
  if (object.kind === 'custom') {
    writeGuid(writer, object.clsid);
    writer.u32(0);
    writer.u32(object.octets.length + 8);
    writer.bytes(object.octets);
  } else {
    written(standardReference, object.reference, writer);
    writeBindings(writer, object.resolver);
  }
  return writer.done();
}

/** MInterfacePointer (MS-DCOM 2.2.14): the octets of an object reference as a parameter. */
export const interfacePointer: Codec<Uint8Array> = {
  align: 4,
  least: 8,
  none: new Uint8Array(),
  write: (writer, value) => {
    writer.align(4);
    writer.u32(value.length);
    writer.u32(value.length);
    writer.bytes(value);
  },
  read: (reader) => {
    const count = reader.count(1);
    if (reader.u32() !== count) throw reader.fault('An interface pointer has another length than it says.');
    const value = reader.bytes(count).slice();
    return () => value;
  },
};
