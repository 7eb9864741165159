import { OctetReader } from '../octets/reader.js';
import { WireFault } from '../octets/wire-fault.js';
import { headOctets, writePdu } from './pdu.js';
import type { Saying } from './pdu.js';
import { levels, protects } from './security.js';
import type { AgreedSecurity, Level } from './security.js';

/** Of one connection: what was agreed on, at which level, under which number. */
export interface Protection {
  readonly service: number;
  readonly level: Level;
  readonly contextId: number;
  readonly security: AgreedSecurity;
}

/** Writes a request, a response or a fault as its level wants it. */
export function writeProtected(pdu: Saying, protection: Protection | null): Uint8Array {
  if (!protection || !protects(protection.level)) return writePdu(pdu);
  const { service, level, contextId, security } = protection;
  return writePdu(pdu, {
    type: service,
    level: levels[level],
    contextId,
    length: security.signatureOctets,
    value: (octets, { from, to }) => {
      const message = octets.subarray(0, octets.length - security.signatureOctets);
      return level === 'privacy' ? security.seal(message, from, to) : security.sign(message);
    },
  });
}

/**
 * Looks at a request, a response or a fault before it is believed, and decrypts it in its place.
 * @throws {WireFault} where its signature is wrong, or where it has none and must have
 */
export function openProtected(octets: Uint8Array, protection: Protection | null): void {
  if (!protection || !protects(protection.level)) return;
  const { security, level } = protection;
  const signatureOctets = new OctetReader(octets.subarray(10, 12), ((octets[4] ?? 0) & 0xf0) === 0x10).u16();
  // A fault may stand for a call that was refused before anything was agreed on.
  if (signatureOctets === 0 && octets[2] === fault) return;
  if (signatureOctets === 0) throw new WireFault('What came is not signed, though signing was agreed on.', 10);
  const at = octets.length - signatureOctets;
  const trailer = at - 8;
  const from = stubStart(octets);
  if (from > trailer) throw new WireFault('The signature does not fit into the PDU.', 10);
  if (octets[trailer + 1] !== levels[level])
    throw new WireFault('What came is secured at another level than was agreed on.', trailer + 1);
  const message = octets.subarray(0, at);
  const signature = octets.subarray(at);
  const isRight =
    level === 'privacy' ? security.unseal(message, from, trailer, signature) : security.isSigned(message, signature);
  if (!isRight) throw new WireFault('The signature of what came is wrong.', at);
}

const [request, fault, hasObject] = [0, 3, 0x80];

function stubStart(octets: Uint8Array): number {
  const more = octets[2] === fault ? 8 : octets[2] === request && ((octets[3] ?? 0) & hasObject) !== 0 ? 16 : 0;
  return headOctets + 8 + more;
}
