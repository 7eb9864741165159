import { OctetReader } from '../octets/reader.js';
import type { Pdu } from '../rpc/pdu.js';
import { interfaceNamed } from './interface-names.js';

/** One PDU as an end has sent it, for who wants to read a conversation closely. */
export interface HeardMessage {
  readonly from: 0 | 1;
  readonly what: string;
  readonly isAnswer: boolean;
  readonly outcome: 'well' | 'badly' | null;
  readonly says: string;
  /** The code that it answers with, where that is a failure. */
  readonly code?: number | undefined;
  readonly details: readonly (readonly [name: string, value: string])[];
  readonly size: number;
  readonly bytes: Uint8Array;
  /** Why its octets are not to be shown; null: they may be. */
  readonly withheld: string | null;
}

const kindNames: Readonly<Record<Pdu['kind'], string>> = {
  bind: 'bind',
  'alter-context': 'alter context',
  'bind-ack': 'bind acknowledge',
  'alter-context-response': 'alter context response',
  'bind-nak': 'bind refused',
  auth3: 'third leg of signing in',
  request: 'request',
  response: 'response',
  fault: 'fault',
  shutdown: 'shutdown',
  'co-cancel': 'cancel',
  orphaned: 'orphaned',
};
const levelNames = ['', 'none', 'connect', 'call', 'packet', 'integrity', 'privacy'];
const encrypted = 6;
const failedFrom = 0x80000000;
const authenticate = 'NTLMSSP\0\u0003';

/**
 * What a PDU says, for people.
 * @param call the operation that it asks for or answers; null: none that is known
 * @param says what was learnt by it
 * @param user who calls, as far as it is known
 */
export function heardMessage(
  from: 0 | 1,
  pdu: Pdu,
  octets: Uint8Array,
  call: string | null,
  says: string,
  user: string | undefined,
): HeardMessage {
  const isHidden = pdu.verifier?.level === encrypted;
  const isSigningIn = Buffer.from(octets.buffer, octets.byteOffset, octets.length).includes(authenticate, 0, 'latin1');
  const result = pdu.kind === 'fault' ? pdu.status >>> 0 : pdu.kind === 'response' && !isHidden ? lastWord(pdu) : null;
  const isBad = pdu.kind === 'fault' || pdu.kind === 'bind-nak' || (result !== null && result >= failedFrom);
  const isAnswer = /ack|nak|response|fault/.test(pdu.kind);
  return {
    from,
    what: call ?? kindNames[pdu.kind],
    isAnswer,
    outcome: isBad ? 'badly' : isAnswer ? 'well' : null,
    says,
    ...(isBad && result !== null ? { code: result } : {}),
    details: [
      ['Kind of PDU', kindNames[pdu.kind]],
      ...(pdu.kind === 'bind' || pdu.kind === 'alter-context'
        ? pdu.contexts.slice(0, 8).map(({ abstract }) => ['Interface', interfaceNamed(abstract.uuid)] as const)
        : []),
      ...(pdu.verifier ? [['Protection', levelNames[pdu.verifier.level] ?? String(pdu.verifier.level)] as const] : []),
      ...(isSigningIn && user !== undefined ? [['Signs in as', user] as const] : []),
    ],
    size: octets.length,
    bytes: octets,
    withheld: isSigningIn
      ? 'A password can be guessed from what signs in.'
      : isHidden
        ? 'It is encrypted: its bytes tell nothing.'
        : null,
  };
}

/** What every operation of these interfaces answers last; only of a response that came in one piece. */
function lastWord({ stub, isLittleEndian, flags }: Extract<Pdu, { readonly kind: 'response' }>): number | null {
  const isWhole = (flags & 3) === 3;
  if (!isWhole || stub.length < 4) return null;
  return new OctetReader(stub.subarray(stub.length - 4), isLittleEndian).u32();
}
