import { OctetReader } from '../octets/reader.js';
import { WireFault } from '../octets/wire-fault.js';
import { OctetWriter } from '../octets/writer.js';
import { utf16 } from './primitives.js';

/** Flags of a negotiation (MS-NLMP 2.2.2.5). */
export const ntlmFlags = {
  unicode: 0x00000001,
  oem: 0x00000002,
  requestTarget: 0x00000004,
  sign: 0x00000010,
  seal: 0x00000020,
  ntlm: 0x00000200,
  anonymous: 0x00000800,
  alwaysSign: 0x00008000,
  targetIsDomain: 0x00010000,
  targetIsServer: 0x00020000,
  extendedSecurity: 0x00080000,
  targetInfo: 0x00800000,
  version: 0x02000000,
  key128: 0x20000000,
  keyExchange: 0x40000000,
  key56: 0x80000000,
} as const;
/** Everything of NTLM that is spoken here, by both sides. */
export const spokenFlags =
  ntlmFlags.unicode |
  ntlmFlags.requestTarget |
  ntlmFlags.sign |
  ntlmFlags.seal |
  ntlmFlags.ntlm |
  ntlmFlags.alwaysSign |
  ntlmFlags.extendedSecurity |
  ntlmFlags.targetInfo |
  ntlmFlags.version |
  ntlmFlags.key128 |
  ntlmFlags.keyExchange |
  ntlmFlags.key56;
export const hasFlag = (flags: number, flag: number): boolean => (flags & flag) !== 0;

/** Kinds of attributes of a target (MS-NLMP 2.2.2.1). */
export const targetAttributes = {
  end: 0,
  computerName: 1,
  domainName: 2,
  dnsComputerName: 3,
  dnsDomainName: 4,
  flags: 6,
  time: 7,
  targetName: 9,
  channelBindings: 10,
} as const;
/** Of the flags: the message carries an integrity code. */
export const carriesMic = 2;

export interface TargetAttribute {
  readonly id: number;
  readonly value: Uint8Array;
}

const signature = Buffer.from('NTLMSSP\0', 'latin1');
/** Version 10.0 of whoever speaks, revision 15 of NTLM (MS-NLMP 2.2.2.10). */
const version = Uint8Array.of(10, 0, 0, 0, 0, 0, 0, 15);
const longestMessage = 16 * 1024;
const mostAttributes = 64;

function begun(message: Uint8Array, type: number): OctetReader {
  if (message.length > longestMessage) throw new WireFault(`A message of NTLM of ${message.length} octets.`, 0);
  const reader = new OctetReader(message);
  if (!Buffer.from(reader.bytes(8)).equals(signature)) throw new WireFault('This is no message of NTLM.', 0);
  const found = reader.u32();
  if (found !== type) throw new WireFault(`A message of kind ${found} of NTLM, where ${type} is due.`, 8);
  return reader;
}

/** Where a part of a message lies: its length, the length again, its place. */
function part(reader: OctetReader): Uint8Array {
  const length = reader.u16();
  reader.skip(2);
  const at = reader.u32();
  if (length === 0) return new Uint8Array();
  if (at + length > reader.octets.length)
    throw reader.fault(`${length} octets at ${at} lie beyond the message of NTLM.`);
  return reader.octets.subarray(at, at + length);
}

export const readNegotiate = (message: Uint8Array): { readonly flags: number } => ({ flags: begun(message, 1).u32() });

export function writeNegotiate(flags: number): Uint8Array {
  const writer = new OctetWriter();
  writer.bytes(signature);
  writer.u32(1);
  writer.u32(flags >>> 0);
  // Neither domain nor workstation is told before it is known whom to.
  writer.skip(16);
  writer.bytes(version);
  return writer.done();
}

export interface Challenge {
  readonly flags: number;
  readonly targetName: string;
  readonly challenge: Uint8Array;
  readonly target: readonly TargetAttribute[];
  /** As they came, which is what the answer is computed over. */
  readonly targetOctets: Uint8Array;
}

export function readChallenge(message: Uint8Array): Challenge {
  const reader = begun(message, 2);
  const name = part(reader);
  const flags = reader.u32();
  const challenge = reader.bytes(8).slice();
  reader.skip(8);
  const targetOctets = hasFlag(flags, ntlmFlags.targetInfo) ? part(reader).slice() : new Uint8Array();
  const targetName = Buffer.from(name).toString(hasFlag(flags, ntlmFlags.unicode) ? 'utf16le' : 'latin1');
  return { flags, targetName, challenge, target: readAttributes(targetOctets), targetOctets };
}

export function writeChallenge({ flags, targetName, challenge, target }: Omit<Challenge, 'targetOctets'>): Uint8Array {
  const parts = new Parts(56);
  const writer = new OctetWriter();
  writer.bytes(signature);
  writer.u32(2);
  parts.field(writer, utf16(targetName));
  writer.u32(flags >>> 0);
  writer.bytes(challenge);
  writer.skip(8);
  parts.field(writer, writeAttributes(target));
  writer.bytes(version);
  return parts.behind(writer);
}

export interface Authenticate {
  readonly flags: number;
  readonly lmResponse: Uint8Array;
  readonly ntResponse: Uint8Array;
  readonly domain: string;
  readonly user: string;
  readonly workstation: string;
  readonly encryptedKey: Uint8Array;
  /** null: the message has no room for one. */
  readonly mic: Uint8Array | null;
}
/** Where the integrity code of a third message stands. */
export const micAt = 72;

export function readAuthenticate(message: Uint8Array): Authenticate {
  const reader = begun(message, 3);
  const [lm, nt, domain, user, workstation, encryptedKey] = [1, 2, 3, 4, 5, 6].map(() => part(reader)) as [
    Uint8Array,
    Uint8Array,
    Uint8Array,
    Uint8Array,
    Uint8Array,
    Uint8Array,
  ];
  const flags = reader.u32();
  const encoding = hasFlag(flags, ntlmFlags.unicode) ? 'utf16le' : 'latin1';
  const text = (octets: Uint8Array): string => Buffer.from(octets).toString(encoding);
  return {
    flags,
    lmResponse: lm.slice(),
    ntResponse: nt.slice(),
    domain: text(domain),
    user: text(user),
    workstation: text(workstation),
    encryptedKey: encryptedKey.slice(),
    mic: message.length >= micAt + 16 ? message.slice(micAt, micAt + 16) : null,
  };
}

/** @returns the message, with room for an integrity code, which is made over all three messages and put in afterwards */
export function writeAuthenticate(said: Omit<Authenticate, 'mic'>): Uint8Array {
  const parts = new Parts(micAt + 16);
  const writer = new OctetWriter();
  writer.bytes(signature);
  writer.u32(3);
  for (const octets of [
    said.lmResponse,
    said.ntResponse,
    utf16(said.domain),
    utf16(said.user),
    utf16(said.workstation),
    said.encryptedKey,
  ])
    parts.field(writer, octets);
  writer.u32(said.flags >>> 0);
  writer.bytes(version);
  writer.skip(16);
  return parts.behind(writer);
}

/** What stands behind the fields of a message. */
class Parts {
  private readonly parts: Uint8Array[] = [];

  constructor(private at: number) {}

  field(writer: OctetWriter, octets: Uint8Array): void {
    writer.u16(octets.length);
    writer.u16(octets.length);
    writer.u32(this.at);
    this.parts.push(octets);
    this.at += octets.length;
  }

  behind(writer: OctetWriter): Uint8Array {
    for (const octets of this.parts) writer.bytes(octets);
    return writer.done();
  }
}

export function readAttributes(octets: Uint8Array): readonly TargetAttribute[] {
  const reader = new OctetReader(octets);
  const attributes: TargetAttribute[] = [];
  while (reader.left > 0) {
    const [id, length] = [reader.u16(), reader.u16()];
    if (id === targetAttributes.end) return attributes;
    if (attributes.length >= mostAttributes) throw reader.fault('More attributes of a target than there are kinds.');
    attributes.push({ id, value: reader.bytes(length).slice() });
  }
  return attributes;
}

export function writeAttributes(attributes: readonly TargetAttribute[]): Uint8Array {
  const writer = new OctetWriter();
  for (const { id, value } of attributes) {
    writer.u16(id);
    writer.u16(value.length);
    writer.bytes(value);
  }
  writer.skip(4);
  return writer.done();
}

export const attributeOf = (attributes: readonly TargetAttribute[], id: number): Uint8Array | null =>
  attributes.find((attribute) => attribute.id === id)?.value ?? null;
