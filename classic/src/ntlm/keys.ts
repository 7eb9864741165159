import { OctetWriter } from '../octets/writer.js';
import { hasFlag, ntlmFlags } from './messages.js';
import { hmacMd5, md4Of, md5Of, utf16 } from './primitives.js';

/** What stands for a password: its MD4. It is as good as the password, and is kept as one. */
export const passwordHash = (password: string): Uint8Array => md4Of(utf16(password));

/** NTOWFv2 (MS-NLMP 3.3.2): of a password’s hash and whose it is. */
export const responseKey = (hash: Uint8Array, user: string, domain: string): Uint8Array =>
  hmacMd5(hash, utf16(user.toUpperCase() + domain));

/** What the second version answers to a challenge (MS-NLMP 3.3.2, “temp”). */
export function clientPart(time: Uint8Array, clientChallenge: Uint8Array, target: Uint8Array): Uint8Array {
  const writer = new OctetWriter();
  writer.bytes(Uint8Array.of(1, 1, 0, 0, 0, 0, 0, 0));
  writer.bytes(time);
  writer.bytes(clientChallenge);
  writer.skip(4);
  writer.bytes(target);
  writer.skip(4);
  return writer.done();
}

export const proofOf = (key: Uint8Array, serverChallenge: Uint8Array, client: Uint8Array): Uint8Array =>
  hmacMd5(key, serverChallenge, client);
export const sessionBaseKey = (key: Uint8Array, proof: Uint8Array): Uint8Array => hmacMd5(key, proof);
export const lmV2Response = (key: Uint8Array, serverChallenge: Uint8Array, clientChallenge: Uint8Array): Uint8Array =>
  Buffer.concat([hmacMd5(key, serverChallenge, clientChallenge), clientChallenge]);

export type Direction = 'client-to-server' | 'server-to-client';
const constant = (direction: Direction, use: 'signing' | 'sealing'): Uint8Array =>
  Buffer.from(`session key to ${direction} ${use} key magic constant\0`, 'latin1');

/** SIGNKEY (MS-NLMP 3.4.5.2). */
export const signingKey = (session: Uint8Array, direction: Direction): Uint8Array =>
  md5Of(session, constant(direction, 'signing'));

/** SEALKEY with extended session security (MS-NLMP 3.4.5.3): cut down where 128 bits were not agreed on. */
export function sealingKey(session: Uint8Array, direction: Direction, flags: number): Uint8Array {
  const octets = hasFlag(flags, ntlmFlags.key128) ? 16 : hasFlag(flags, ntlmFlags.key56) ? 7 : 5;
  return md5Of(session.subarray(0, octets), constant(direction, 'sealing'));
}
