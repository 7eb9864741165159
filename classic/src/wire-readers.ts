import { readMade, readWanted } from './dcom/activation.js';
import { readObjectReference } from './dcom/object-reference.js';
import { readAnswer } from './dcom/orpc.js';
import { readAuthenticate, readChallenge, readNegotiate } from './ntlm/messages.js';
import { itemProperties, syncIo } from './opc/interfaces.js';
import { readPdu } from './rpc/pdu.js';

/**
 * All that reads what a peer has sent, whole: each takes octets, and throws a WireFault where they are not what the protocol
 * allows, and nothing else whatever they are.
 */
export const wireReaders = {
  pdu: readPdu,
  'object-reference': readObjectReference,
  wanted: readWanted,
  made: readMade,
  negotiate: readNegotiate,
  challenge: readChallenge,
  authenticate: readAuthenticate,
  values: (octets: Uint8Array) => readAnswer(syncIo.read, octets, true),
  properties: (octets: Uint8Array) => readAnswer(itemProperties.available, octets, true),
} satisfies Readonly<Record<string, (octets: Uint8Array) => unknown>>;
