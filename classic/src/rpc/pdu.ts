import { noGuid, readGuid, writeGuid } from '../octets/guid.js';
import type { Guid } from '../octets/guid.js';
import { OctetReader } from '../octets/reader.js';
import { WireFault } from '../octets/wire-fault.js';
import { OctetWriter } from '../octets/writer.js';

/** Kinds of connection-oriented PDUs (C706 12.6.4, MS-RPCE 2.2.2.1). */
const kinds = {
  request: 0,
  response: 2,
  fault: 3,
  bind: 11,
  'bind-ack': 12,
  'bind-nak': 13,
  'alter-context': 14,
  'alter-context-response': 15,
  auth3: 16,
  shutdown: 17,
  'co-cancel': 18,
  orphaned: 19,
} as const;
export type PduKind = keyof typeof kinds;
const kindByNumber = new Map<number, PduKind>(Object.entries(kinds).map(([kind, number]) => [number, kind as PduKind]));

/** Flags of the header (C706 12.6.3.1); headers are signed where both sides say that they can (MS-RPCE 2.2.2.3). */
export const pduFlags = { first: 0x01, last: 0x02, signsHeaders: 0x04, didNotExecute: 0x20, hasObject: 0x80 } as const;

export interface Syntax {
  readonly uuid: Guid;
  readonly major: number;
  readonly minor: number;
}

/** NDR of 32 bits, the one transfer syntax that is spoken here (C706, appendix I). */
export const ndr: Syntax = { uuid: '8a885d04-1ceb-11c9-9fe8-08002b104860', major: 2, minor: 0 };
export const sameSyntax = (left: Syntax, right: Syntax): boolean =>
  left.uuid === right.uuid && left.major === right.major;

export interface ContextOffer {
  readonly id: number;
  readonly abstract: Syntax;
  readonly transfers: readonly Syntax[];
}
/** How a context was taken: accepted, or refused by the user (1) or the provider (2), or an answer to a negotiation (3). */
export interface ContextResult {
  readonly result: number;
  readonly reason: number;
  readonly transfer: Syntax;
}
export const accepted = 0;
export const refusedByProvider = 2;
/** Why the provider refuses a context: the interface, or the transfer syntax, is not known (C706 12.6.4.4). */
export const abstractSyntaxUnknown = 1;
export const transferSyntaxUnknown = 2;

/** What a PDU says of security, behind its body (MS-RPCE 2.2.2.11). */
export interface Verifier {
  readonly type: number;
  readonly level: number;
  readonly padding: number;
  readonly contextId: number;
  readonly value: Uint8Array;
}

interface Head {
  readonly flags: number;
  readonly callId: number;
  readonly isLittleEndian: boolean;
  readonly verifier: Verifier | null;
}
interface Bound {
  readonly mostSent: number;
  readonly mostReceived: number;
  readonly group: number;
}
export type Pdu = Head &
  (
    | ({ readonly kind: 'bind' | 'alter-context'; readonly contexts: readonly ContextOffer[] } & Bound)
    | ({
        readonly kind: 'bind-ack' | 'alter-context-response';
        readonly address: string;
        readonly results: readonly ContextResult[];
      } & Bound)
    | { readonly kind: 'bind-nak'; readonly reason: number }
    | { readonly kind: 'auth3' | 'shutdown' | 'co-cancel' | 'orphaned' }
    | {
        readonly kind: 'request';
        readonly hint: number;
        readonly context: number;
        readonly operation: number;
        readonly object: Guid | null;
        readonly stub: Uint8Array;
      }
    | { readonly kind: 'response'; readonly hint: number; readonly context: number; readonly stub: Uint8Array }
    | { readonly kind: 'fault'; readonly context: number; readonly status: number }
  );
type Having<Of, Kind> = Of extends { readonly kind: infer Own } ? ([Own & Kind] extends [never] ? never : Of) : never;
export type PduOf<Kind extends PduKind> = Having<Pdu, Kind>;
/** What is said of a PDU when it is written: the order of octets is ours. */
export type Saying = DistributiveOmit<Pdu, 'isLittleEndian' | 'verifier'>;
export type DistributiveOmit<Of, Names extends PropertyKey> = Of extends unknown ? Omit<Of, Names> : never;

export const headOctets = 16;
const trailerOctets = 8;
const mostContexts = 64;
const mostSyntaxes = 16;
/** Octets of body before the stub of a request, a response or a fault. */
const stubAt = 24;

/** The length of the PDU that begins with these octets; null: they are too few to know. */
export function pduLength(head: Uint8Array): number | null {
  if (head.length > 0 && head[0] !== 5) throw new WireFault(`Version ${head[0] ?? 0} of RPC, where 5 is spoken.`, 0);
  if (head.length < headOctets) return null;
  if ((head[1] ?? 0) > 1) throw new WireFault(`Version 5.${head[1] ?? 0} of RPC, where 5.0 and 5.1 are spoken.`, 1);
  if (!kindByNumber.has(head[2] ?? 0)) throw new WireFault(`A PDU of kind ${head[2] ?? 0}, which is not known.`, 2);
  const length = new DataView(head.buffer, head.byteOffset).getUint16(8, isLittle(head));
  if (length < headOctets) throw new WireFault(`A PDU of ${length} octets, where a header alone has 16.`, 8);
  return length;
}
const isLittle = (head: Uint8Array): boolean => ((head[4] ?? 0) & 0xf0) === 0x10;

/** @throws {WireFault} where it is none */
export function readPdu(octets: Uint8Array): Pdu {
  const length = pduLength(octets);
  if (length === null || length !== octets.length)
    throw new WireFault(`A PDU of ${length ?? 'unknown'} octets came with ${octets.length}.`, 8);
  const reader = new OctetReader(octets, isLittle(octets));
  reader.skip(2);
  const kind = kindByNumber.get(reader.u8());
  const flags = reader.u8();
  const characters = (octets[4] ?? 0) & 0x0f;
  if (((octets[4] ?? 0) & 0xf0) > 0x10 || characters > 1)
    throw new WireFault('Numbers or letters in a form that is not known.', 4);
  reader.skip(6);
  const verifierOctets = reader.u16();
  const head = { flags, callId: reader.u32(), isLittleEndian: reader.isLittleEndian };
  const { verifier, bodyEnd } = readVerifier(octets, verifierOctets, reader.isLittleEndian);
  const body = new OctetReader(octets.subarray(0, bodyEnd), reader.isLittleEndian);
  body.skip(headOctets);
  return { ...head, verifier, ...readBody(kind, flags, body) } as Pdu;
}

function readVerifier(octets: Uint8Array, length: number, isLittleEndian: boolean) {
  if (length === 0) return { verifier: null, bodyEnd: octets.length };
  const from = octets.length - length - trailerOctets;
  if (from < headOctets) throw new WireFault(`${length} octets of security don’t fit into the PDU.`, 10);
  const reader = new OctetReader(octets.subarray(from), isLittleEndian);
  const [type, level, padding] = [reader.u8(), reader.u8(), reader.u8()];
  reader.skip(1);
  const verifier = { type, level, padding, contextId: reader.u32(), value: reader.bytes(length) };
  if (from - padding < headOctets)
    throw new WireFault(`${padding} octets of padding don’t fit into the PDU.`, from + 2);
  return { verifier, bodyEnd: from - padding };
}

function readBody(kind: PduKind | undefined, flags: number, reader: OctetReader): object {
  switch (kind) {
    case 'bind':
    case 'alter-context': {
      const bound = readBound(reader);
      const count = reader.u8();
      reader.skip(3);
      if (count === 0 || count > mostContexts)
        throw reader.fault(`${count} contexts are offered, where 1 to 64 may be.`);
      return { kind, ...bound, contexts: Array.from({ length: count }, () => readOffer(reader)) };
    }
    case 'bind-ack':
    case 'alter-context-response': {
      const bound = readBound(reader);
      const letters = reader.u16();
      const address = Buffer.from(reader.bytes(letters)).toString('latin1').replace(/\0.*$/s, '');
      reader.align(4);
      const count = reader.u8();
      reader.skip(3);
      return { kind, ...bound, address, results: Array.from({ length: count }, () => readResult(reader)) };
    }
    case 'bind-nak':
      return { kind, reason: reader.u16() };
    case 'request': {
      const [hint, context, operation] = [reader.u32(), reader.u16(), reader.u16()];
      const object = (flags & pduFlags.hasObject) === 0 ? null : readGuid(reader);
      return { kind, hint, context, operation, object, stub: reader.bytes(reader.left) };
    }
    case 'response': {
      const [hint, context] = [reader.u32(), reader.u16()];
      reader.skip(2);
      return { kind, hint, context, stub: reader.bytes(reader.left) };
    }
    case 'fault': {
      reader.skip(4);
      const context = reader.u16();
      reader.skip(2);
      return { kind, context, status: reader.u32() };
    }
    default:
      return { kind };
  }
}

const readBound = (reader: OctetReader): Bound => ({
  mostSent: reader.u16(),
  mostReceived: reader.u16(),
  group: reader.u32(),
});
function readSyntax(reader: OctetReader): Syntax {
  return { uuid: readGuid(reader), major: reader.u16(), minor: reader.u16() };
}
function readOffer(reader: OctetReader): ContextOffer {
  const id = reader.u16();
  const count = reader.u8();
  reader.skip(1);
  if (count > mostSyntaxes) throw reader.fault(`${count} transfer syntaxes are offered, where 16 are the most.`);
  return { id, abstract: readSyntax(reader), transfers: Array.from({ length: count }, () => readSyntax(reader)) };
}
function readResult(reader: OctetReader): ContextResult {
  return { result: reader.u16(), reason: reader.u16(), transfer: readSyntax(reader) };
}

/** How a PDU is to be secured when it is written. */
export interface Securing {
  readonly type: number;
  readonly level: number;
  readonly contextId: number;
  /** Octets of the value; it is put in last, made from all that stands before it. */
  readonly length: number;
  /**
   * @param stub from where to where the stub and its padding lie, which may be encrypted in their place
   * @returns the value
   */
  readonly value: (pdu: Uint8Array, stub: { readonly from: number; readonly to: number }) => Uint8Array;
}

export function writePdu(pdu: Saying, securing: Securing | null = null): Uint8Array {
  const writer = new OctetWriter();
  writer.u8(5);
  writer.u8(0);
  writer.u8(kinds[pdu.kind]);
  writer.u8(pdu.flags | (pdu.kind === 'request' && pdu.object !== null ? pduFlags.hasObject : 0));
  // Numbers with the lowest octet first, letters in ASCII, IEEE floating point.
  writer.u32(0x10);
  writer.u16(0);
  writer.u16(securing?.length ?? 0);
  writer.u32(pdu.callId);
  writeBody(writer, pdu);
  const bodyEnd = writer.at;
  if (securing) {
    writer.align(4);
    const padding = writer.at - bodyEnd;
    writer.u8(securing.type);
    writer.u8(securing.level);
    writer.u8(padding);
    writer.u8(0);
    writer.u32(securing.contextId);
  }
  const at = writer.at;
  writer.skip(securing?.length ?? 0);
  writer.putU16(8, writer.at);
  const octets = writer.done();
  if (securing) {
    const from = stubAt + (pdu.kind === 'request' && pdu.object !== null ? 16 : 0);
    octets.set(securing.value(octets, { from, to: at - trailerOctets }), at);
  }
  return octets;
}

function writeBody(writer: OctetWriter, pdu: Saying): void {
  switch (pdu.kind) {
    case 'bind':
    case 'alter-context':
      writeBound(writer, pdu);
      writer.u32(pdu.contexts.length);
      for (const { id, abstract, transfers } of pdu.contexts) {
        writer.u16(id);
        writer.u16(transfers.length);
        for (const syntax of [abstract, ...transfers]) writeSyntax(writer, syntax);
      }
      return;
    case 'bind-ack':
    case 'alter-context-response': {
      writeBound(writer, pdu);
      const letters = pdu.address === '' ? Buffer.alloc(0) : Buffer.from(`${pdu.address}\0`, 'latin1');
      writer.u16(letters.length);
      writer.bytes(letters);
      writer.align(4);
      writer.u32(pdu.results.length);
      for (const { result, reason, transfer } of pdu.results) {
        writer.u16(result);
        writer.u16(reason);
        writeSyntax(writer, transfer);
      }
      return;
    }
    case 'bind-nak':
      writer.u16(pdu.reason);
      // The versions that are spoken: 5.0.
      writer.bytes(Uint8Array.of(1, 5, 0));
      return;
    case 'auth3':
      writer.u32(0);
      return;
    case 'request':
      writer.u32(pdu.hint);
      writer.u16(pdu.context);
      writer.u16(pdu.operation);
      if (pdu.object !== null) writeGuid(writer, pdu.object);
      return writer.bytes(pdu.stub);
    case 'response':
      writer.u32(pdu.hint);
      writer.u16(pdu.context);
      writer.u16(0);
      return writer.bytes(pdu.stub);
    case 'fault':
      writer.u32(0);
      writer.u16(pdu.context);
      writer.u16(0);
      writer.u32(pdu.status);
      writer.u32(0);
      return;
    default:
      return;
  }
}

function writeBound(writer: OctetWriter, { mostSent, mostReceived, group }: Bound): void {
  writer.u16(mostSent);
  writer.u16(mostReceived);
  writer.u32(group);
}
function writeSyntax(writer: OctetWriter, { uuid, major, minor }: Syntax): void {
  writeGuid(writer, uuid);
  writer.u16(major);
  writer.u16(minor);
}
export const noSyntax: Syntax = { uuid: noGuid, major: 0, minor: 0 };
