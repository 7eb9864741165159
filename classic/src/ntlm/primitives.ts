import { createHash, createHmac } from 'node:crypto';
import md4 from 'js-md4';
import RC4 from 'rc4';

/** What NTLM is made of (MS-NLMP 6). MD4 and RC4 are broken, and are here because NTLM needs them; nothing else may use them. */
export const md4Of = (message: Uint8Array): Uint8Array => new Uint8Array(md4.arrayBuffer(message));
export const md5Of = (...parts: readonly Uint8Array[]): Uint8Array =>
  parts.reduce((hash, part) => hash.update(part), createHash('md5')).digest();
export const hmacMd5 = (key: Uint8Array, ...parts: readonly Uint8Array[]): Uint8Array =>
  parts.reduce((hash, part) => hash.update(part), createHmac('md5', key)).digest();

/** RC4 that goes on where it has stopped: encrypting and decrypting are one. */
export class Rc4Stream {
  private readonly stream: RC4;

  constructor(key: Uint8Array) {
    this.stream = new RC4([...key]);
  }

  /** Changes octets in their place. */
  apply(octets: Uint8Array): Uint8Array {
    for (let index = 0; index < octets.length; index += 1)
      octets[index] = (octets[index] ?? 0) ^ this.stream.randomByte();
    return octets;
  }
}

export const utf16 = (text: string): Uint8Array => Buffer.from(text, 'utf16le');
