import { controlBits, noData, objectAceTypes, systemAceTypes } from './descriptor.js';
import type { Ace, SecurityDescriptor } from './descriptor.js';
import { readSidBytes, sidBytes } from './sid.js';
import type { ReadPart, Sid } from './sid.js';

/** A self-relative security descriptor (MS-DTYP 2.4.6); integers are little endian. */

const headerBytes = 20;
const aclHeaderBytes = 8;
const aceHeaderBytes = 4;
const guidBytes = 16;
/** ACL_REVISION and ACL_REVISION_DS (MS-DTYP 2.4.5). */
const [usualRevision, objectRevision] = [2, 4];
const [hasObjectType, hasInheritedObjectType] = [1, 2];
/** All that a length of 16 bits can say. */
const mostAclBytes = 0xffff;

type Read<Value> = ReadPart<Value>;
const fault = (at: number, says: string) => ({ ok: false as const, fault: { at, says } });

/** Reads a self-relative descriptor; what is wrong is told with the byte at which it is. */
export function readDescriptorBytes(bytes: Uint8Array): Read<SecurityDescriptor> {
  if (bytes.length < headerBytes)
    return fault(bytes.length, `A descriptor has 20 bytes before its parts; this has ${bytes.length}.`);
  if (bytes[0] !== 1) return fault(0, `Revision ${bytes[0] ?? 0}, where 1 is the only one.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const control = view.getUint16(2, true);
  if ((control & controlBits.selfRelative) === 0)
    return fault(2, 'It is not self-relative: its parts lie somewhere else.');
  const owner = sidAt(bytes, view.getUint32(4, true), 4);
  if (!owner.ok) return owner;
  const group = sidAt(bytes, view.getUint32(8, true), 8);
  if (!group.ok) return group;
  const sacl = aclAt(bytes, view.getUint32(12, true), 12, (control & controlBits.saclPresent) !== 0);
  if (!sacl.ok) return sacl;
  const dacl = aclAt(bytes, view.getUint32(16, true), 16, (control & controlBits.daclPresent) !== 0);
  if (!dacl.ok) return dacl;
  const value = { control, owner: owner.value, group: group.value, dacl: dacl.value, sacl: sacl.value };
  return { ok: true, value };
}

function sidAt(bytes: Uint8Array, at: number, from: number): Read<Sid | null> {
  if (at === 0) return { ok: true, value: null };
  if (at < headerBytes || at >= bytes.length) return fault(from, `It points to byte ${at}, which is outside.`);
  const read = readSidBytes(bytes, at);
  return read.ok ? { ok: true, value: read.value.sid } : read;
}

function aclAt(bytes: Uint8Array, at: number, from: number, isPresent: boolean): Read<readonly Ace[] | null> {
  // Where it is not said to be there, whatever is pointed to counts for nothing.
  if (!isPresent || at === 0) return { ok: true, value: null };
  if (at < headerBytes || at + aclHeaderBytes > bytes.length)
    return fault(from, `It points to byte ${at}, which is outside.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const revision = bytes[at] ?? 0;
  if (revision !== usualRevision && revision !== objectRevision)
    return fault(at, `A list of revision ${revision}, where 2 and 4 are the only ones.`);
  const size = view.getUint16(at + 2, true);
  const count = view.getUint16(at + 4, true);
  if (size < aclHeaderBytes || at + size > bytes.length)
    return fault(at + 2, `A list of ${size} bytes does not fit: ${bytes.length - at} are left.`);
  const end = at + size;
  const aces: Ace[] = [];
  let place = at + aclHeaderBytes;
  for (let index = 0; index < count; index += 1) {
    const read = aceAt(bytes, view, place, end);
    if (!read.ok) return read;
    aces.push(read.value.ace);
    place += read.value.length;
  }
  return { ok: true, value: aces };
}

function aceAt(
  bytes: Uint8Array,
  view: DataView,
  at: number,
  endOfList: number,
): Read<{ readonly ace: Ace; readonly length: number }> {
  if (at + aceHeaderBytes > endOfList) return fault(at, 'An entry is cut off by the end of its list.');
  const [type = 0, flags = 0] = [bytes[at], bytes[at + 1]];
  const length = view.getUint16(at + 2, true);
  if (length < aceHeaderBytes + 4 || length % 4 !== 0)
    return fault(at + 2, `An entry of ${length} bytes, which can’t be.`);
  const end = at + length;
  if (end > endOfList)
    return fault(at + 2, `An entry of ${length} bytes does not fit into its list: ${endOfList - at} are left.`);
  if (!isKnown(type)) return fault(at, `An entry of type ${type}, which is not known.`);
  const mask = view.getUint32(at + aceHeaderBytes, true);
  let place = at + aceHeaderBytes + 4;
  let [objectType, inheritedObjectType]: (string | null)[] = [null, null];
  if (objectAceTypes.has(type)) {
    if (place + 4 > end) return fault(place, 'An entry for kinds of objects is cut off.');
    const present = view.getUint32(place, true);
    place += 4;
    if (present & hasObjectType) {
      if (place + guidBytes > end) return fault(place, 'The kind of object of an entry is cut off.');
      objectType = guidAt(bytes, view, place);
      place += guidBytes;
    }
    if (present & hasInheritedObjectType) {
      if (place + guidBytes > end) return fault(place, 'The inherited kind of object of an entry is cut off.');
      inheritedObjectType = guidAt(bytes, view, place);
      place += guidBytes;
    }
  }
  const sid = readSidBytes(bytes, place, end);
  if (!sid.ok) return sid;
  const data = bytes.slice(place + sid.value.length, end);
  const ace: Ace = {
    type,
    flags,
    mask,
    sid: sid.value.sid,
    objectType: objectType ?? null,
    inheritedObjectType: inheritedObjectType ?? null,
    data: data.length === 0 ? noData : data,
  };
  return { ok: true, value: { ace, length } };
}

/** 4 was kept for something that never came (MS-DTYP 2.4.4.1). */
const isKnown = (type: number): boolean =>
  type <= 3 || objectAceTypes.has(type) || systemAceTypes.has(type) || type === 9 || type === 10;

const hex = (value: number, digits: number): string => value.toString(16).padStart(digits, '0');

/** MS-DTYP 2.3.4.2: the first three parts are little endian, the rest stands as it is. */
function guidAt(bytes: Uint8Array, view: DataView, at: number): string {
  const rest = [...bytes.subarray(at + 8, at + guidBytes)].map((byte) => hex(byte, 2)).join('');
  const first = [
    hex(view.getUint32(at, true), 8),
    hex(view.getUint16(at + 4, true), 4),
    hex(view.getUint16(at + 6, true), 4),
  ];
  return [...first, rest.slice(0, 4), rest.slice(4)].join('-');
}

function guidInBytes(guid: string): Uint8Array {
  const digits = guid.replaceAll('-', '');
  const bytes = Uint8Array.from({ length: guidBytes }, (_, index) =>
    Number.parseInt(digits.slice(2 * index, 2 * index + 2), 16),
  );
  bytes.subarray(0, 4).reverse();
  bytes.subarray(4, 6).reverse();
  bytes.subarray(6, 8).reverse();
  return bytes;
}

/**
 * Writes a self-relative descriptor: SACL, DACL, owner, group, as systems write them.
 * @throws where a list is longer than its length can say
 */
export function descriptorBytes(descriptor: SecurityDescriptor): Uint8Array {
  const { owner, group, dacl, sacl } = descriptor;
  const parts: Uint8Array[] = [];
  let at = headerBytes;
  const place = (part: Uint8Array | null): number => {
    if (!part) return 0;
    const here = at;
    parts.push(part);
    at += part.length;
    return here;
  };
  const offsets = {
    sacl: place(sacl && aclBytes(sacl)),
    dacl: place(dacl && aclBytes(dacl)),
    owner: place(owner === null ? null : sidBytes(owner)),
    group: place(group === null ? null : sidBytes(group)),
  };
  const header = new Uint8Array(headerBytes);
  const view = new DataView(header.buffer);
  header[0] = 1;
  const present = (sacl ? controlBits.saclPresent : 0) | (dacl ? controlBits.daclPresent : 0);
  view.setUint16(2, descriptor.control | controlBits.selfRelative | present, true);
  view.setUint32(4, offsets.owner, true);
  view.setUint32(8, offsets.group, true);
  view.setUint32(12, offsets.sacl, true);
  view.setUint32(16, offsets.dacl, true);
  return joined([header, ...parts]);
}

function aclBytes(aces: readonly Ace[]): Uint8Array {
  const entries = aces.map(aceBytes);
  const size = aclHeaderBytes + entries.reduce((sum, { length }) => sum + length, 0);
  if (size > mostAclBytes) throw new Error(`a list of ${size} bytes, where ${mostAclBytes} are the most`);
  const header = new Uint8Array(aclHeaderBytes);
  const view = new DataView(header.buffer);
  header[0] = aces.some(({ type }) => objectAceTypes.has(type)) ? objectRevision : usualRevision;
  view.setUint16(2, size, true);
  view.setUint16(4, aces.length, true);
  return joined([header, ...entries]);
}

function aceBytes({ type, flags, mask, sid, objectType, inheritedObjectType, data }: Ace): Uint8Array {
  const kinds: Uint8Array[] = [];
  if (objectAceTypes.has(type)) {
    const present = (objectType ? hasObjectType : 0) | (inheritedObjectType ? hasInheritedObjectType : 0);
    kinds.push(Uint8Array.of(present, 0, 0, 0));
    for (const guid of [objectType, inheritedObjectType]) if (guid) kinds.push(guidInBytes(guid));
  }
  // Entries are multiples of four bytes long (MS-DTYP 2.4.4.1).
  const padding = new Uint8Array((4 - (data.length % 4)) % 4);
  const header = new Uint8Array(aceHeaderBytes + 4);
  const entry = joined([header, ...kinds, sidBytes(sid), data, padding]);
  const view = new DataView(entry.buffer);
  entry[0] = type;
  entry[1] = flags;
  view.setUint16(2, entry.length, true);
  view.setUint32(aceHeaderBytes, mask, true);
  return entry;
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}
