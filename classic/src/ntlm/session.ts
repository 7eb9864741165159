import { timingSafeEqual } from 'node:crypto';
import { OctetWriter } from '../octets/writer.js';
import type { AgreedSecurity } from '../rpc/security.js';
import { sealingKey, signingKey } from './keys.js';
import type { Direction } from './keys.js';
import { hasFlag, ntlmFlags } from './messages.js';
import { Rc4Stream, hmacMd5 } from './primitives.js';

/** One direction of a session: its keys, its stream, and how many messages went. */
class OneWay {
  private readonly signing: Uint8Array;
  private readonly sealing: Rc4Stream;
  private sequence = 0;

  constructor(
    session: Uint8Array,
    direction: Direction,
    private readonly flags: number,
  ) {
    this.signing = signingKey(session, direction);
    this.sealing = new Rc4Stream(sealingKey(session, direction, flags));
  }

  encrypt(octets: Uint8Array): void {
    this.sealing.apply(octets);
  }

  /** MAC with extended session security (MS-NLMP 3.4.4.2). */
  signatureOf(message: Uint8Array): Uint8Array {
    const sequence = new Uint8Array(4);
    new DataView(sequence.buffer).setUint32(0, this.sequence++, true);
    const checksum = hmacMd5(this.signing, sequence, message).slice(0, 8);
    if (hasFlag(this.flags, ntlmFlags.keyExchange)) this.sealing.apply(checksum);
    const writer = new OctetWriter();
    writer.u32(1);
    writer.bytes(checksum);
    writer.bytes(sequence);
    return writer.done();
  }
}

const same = (left: Uint8Array, right: Uint8Array): boolean =>
  left.length === right.length && timingSafeEqual(left, right);

/** What NTLM signs and seals with (MS-NLMP 3.4), once both sides have the session’s key. */
export function ntlmSession(session: Uint8Array, flags: number, side: 'client' | 'server'): AgreedSecurity {
  const [out, back]: readonly [Direction, Direction] =
    side === 'client' ? ['client-to-server', 'server-to-client'] : ['server-to-client', 'client-to-server'];
  const going = new OneWay(session, out, flags);
  const coming = new OneWay(session, back, flags);
  return {
    signatureOctets: 16,
    sign: (message) => going.signatureOf(message),
    isSigned: (message, signature) => same(coming.signatureOf(message), signature),
    // The signature is of what was there before, and the stream goes on from the message to it.
    seal: (message, from, to) => {
      const plain = message.slice();
      going.encrypt(message.subarray(from, to));
      return going.signatureOf(plain);
    },
    unseal: (message, from, to, signature) => {
      coming.encrypt(message.subarray(from, to));
      return same(coming.signatureOf(message), signature);
    },
  };
}
