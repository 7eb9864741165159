import { readCertificate } from '../../trust/certificate.js';
import { splitDerChain } from '../../trust/pem.js';
import { hexOf } from '../../trust/x509/der.js';
import { BinaryFault, BinaryReader, typeIdAt, u32At } from '../../ua/binary-reader.js';
import { securityPolicyOf } from '../../ua/security-policies.js';
import { serviceMessageOf } from '../../ua/service-types.js';
import { meaningOfStatusCode, printedStatusCode, statusCodeNamed } from '../../ua/status-codes.js';
import type { End, SaidMessage } from '../conversation/dialect.js';
import type { Chunk } from './chunks.js';
import { readSessionWish, readSignIn } from './session-messages.js';

type Words = Pick<SaidMessage, 'what' | 'isAnswer' | 'outcome' | 'says' | 'details' | 'withheld'>;

const plain = { isAnswer: false, outcome: null, says: '', details: [], withheld: null };
const encrypted = 'It is encrypted: its bytes tell nothing.';
const mayHoldPassword = 'It may hold a password.';
/** Behind token and sequence header. */
const contentAt = 16;
const sequenceBytes = 8;

/**
 * What a chunk says, for people.
 */
export function saidChunk(from: End, chunk: Chunk, around: Around): SaidMessage {
  const { body, size } = chunk;
  return { from, size, bytes: body, ...wordsOf(chunk, around) };
}

/** What is known of the conversation around a chunk. */
export interface Around {
  /** Whether it is sent by the end that asks. */
  readonly isRequest: boolean;
  /** The service whose answer it is, as far as that is known. */
  readonly asked: string | null;
  readonly isEncrypted: boolean;
}

function wordsOf(chunk: Chunk, around: Around): Words {
  try {
    switch (chunk.type) {
      case 'HEL':
        return hello(chunk.body);
      case 'ACK':
        return acknowledge(chunk.body);
      case 'RHE': {
        const reader = new BinaryReader(chunk.body);
        const details = [['Server', reader.string() ?? ''] as const, ['Endpoint URL', reader.string() ?? ''] as const];
        return { ...plain, what: 'ReverseHello', says: 'The server calls its client.', details };
      }
      case 'ERR':
        return refused('Error', chunk.body);
      case 'OPN':
        return opening(chunk.body, around.isRequest);
      case 'CLO':
        return { ...plain, what: 'CloseSecureChannel' };
      case 'MSG':
        return message(chunk, around);
    }
  } catch (error) {
    if (!(error instanceof BinaryFault)) throw error;
    return { ...plain, what: chunk.type, says: 'It is broken, or was not recorded whole.', withheld: mayHoldPassword };
  }
}

const sizeText = (bytes: number): string => (bytes === 0 ? 'no limit' : `${bytes} bytes`);

function hello(body: Uint8Array): Words {
  const reader = new BinaryReader(body);
  reader.skip(4);
  const [receive, send, most] = [reader.u32(), reader.u32(), reader.u32()];
  reader.skip(4);
  return {
    ...plain,
    what: 'Hello',
    details: [
      ['Endpoint URL', reader.string() ?? ''],
      ['Buffers, receiving and sending', `${sizeText(receive)}, ${sizeText(send)}`],
      ['Largest message', sizeText(most)],
    ],
  };
}

function acknowledge(body: Uint8Array): Words {
  const reader = new BinaryReader(body);
  reader.skip(4);
  const [receive, send, most] = [reader.u32(), reader.u32(), reader.u32()];
  return {
    ...plain,
    what: 'Acknowledge',
    isAnswer: true,
    outcome: 'well',
    details: [
      ['Buffers, receiving and sending', `${sizeText(receive)}, ${sizeText(send)}`],
      ['Largest message', sizeText(most)],
    ],
  };
}

function refused(what: string, body: Uint8Array): Words {
  const reader = new BinaryReader(body);
  const name = statusCodeNamed(reader.u32());
  const reason = reader.string();
  const says = `${printedStatusCode(name)}: ${meaningOfStatusCode(name)}`;
  const details = reason ? [['Reason that it gives', reason] as const] : [];
  return { ...plain, what, isAnswer: true, outcome: 'badly', says, details };
}

function opening(body: Uint8Array, isRequest: boolean): Words {
  const reader = new BinaryReader(body);
  reader.skip(4);
  const policy = reader.string() ?? '';
  const certificate = reader.byteString();
  const receiver = reader.byteString();
  const rest = body.subarray(reader.at);
  const details: (readonly [string, string])[] = [
    ['Security policy', securityPolicyOf(policy)?.name ?? policy],
    ...certificateDetails(certificate),
    ...(receiver ? [['Receiver’s certificate', hexOf(receiver)] as const] : []),
  ];
  const isReadable = serviceMessageOf(typeIdAt(rest, sequenceBytes) ?? -1) !== null;
  const answer = isReadable && !isRequest ? answerIn(rest.subarray(sequenceBytes)) : null;
  return {
    ...plain,
    what: 'OpenSecureChannel',
    isAnswer: !isRequest,
    outcome: answer?.outcome ?? null,
    says: answer?.says ?? (isReadable ? '' : 'What follows the certificates is encrypted.'),
    details,
  };
}

function certificateDetails(chain: Uint8Array | null): (readonly [string, string])[] {
  const read = chain && readCertificate(splitDerChain(chain)?.[0] ?? chain);
  if (!chain) return [];
  if (!read?.ok) return [['Sender’s certificate', 'can’t be read']];
  const { subject, notBefore, notAfter, thumbprint } = read.certificate.summary;
  return [
    ['Sender’s certificate', subject],
    ['Valid', `${notBefore.slice(0, 10)} to ${notAfter.slice(0, 16).replace('T', ' ')}`],
    ['Its thumbprint', thumbprint],
  ];
}

function message({ body, ending, isWhole }: Chunk, { isRequest, asked, isEncrypted }: Around): Words {
  if (ending === 'A') return refused('Given up', body.subarray(contentAt));
  const content = body.subarray(contentAt);
  const known = serviceMessageOf(typeIdAt(content, 0) ?? -1);
  if (!known)
    return {
      ...plain,
      what: isEncrypted ? 'Encrypted message' : `Part of ${asked ?? 'a message'}`,
      isAnswer: !isRequest,
      withheld: isEncrypted ? encrypted : mayHoldPassword,
    };
  const details: (readonly [string, string])[] = [['Request', String(u32At(body, 12))]];
  if (!known.isRequest) return { ...plain, what: asked ?? known.name, isAnswer: true, ...answerIn(content), details };
  const more = ending === 'F' && isWhole ? requestDetails(known.name, content) : { details: [], isOpen: true };
  return {
    ...plain,
    what: known.name,
    details: [...details, ...more.details],
    withheld: more.isOpen || !known.isRequest ? mayHoldPassword : null,
  };
}

/** What an answer says of itself (Part 4 §7.34). */
function answerIn(content: Uint8Array): Pick<Words, 'outcome' | 'says'> {
  const reader = new BinaryReader(content);
  reader.nodeId();
  reader.skip(12);
  const name = statusCodeNamed(reader.u32());
  if (name.startsWith('Bad'))
    return { outcome: 'badly', says: `${printedStatusCode(name)}: ${meaningOfStatusCode(name)}` };
  return { outcome: 'well', says: name === 'Good' ? '' : printedStatusCode(name) };
}

/** @returns `isOpen` where it may hold a password */
function requestDetails(
  name: string,
  content: Uint8Array,
): { details: (readonly [string, string])[]; isOpen: boolean } {
  if (name === 'CreateSession') {
    const { applicationUri, endpointUrl } = readSessionWish(content);
    const details = [
      ['Application URI', applicationUri ?? ''],
      ['Endpoint URL', endpointUrl ?? ''],
    ] as const;
    return { details: [...details], isOpen: false };
  }
  if (name !== 'ActivateSession') return { details: [], isOpen: name === 'Call' || name === 'Write' };
  const told = readSignIn(content);
  if (!told) return { details: [], isOpen: true };
  const { tokenType, userName, hasClearPassword } = told;
  const details: (readonly [string, string])[] = [['Signs in by', tokenWords[tokenType]]];
  if (userName) details.push(['User', userName]);
  if (hasClearPassword) details.push(['Password', 'in clear text: everybody on the way can read it']);
  return { details, isOpen: hasClearPassword };
}

const tokenWords = {
  Anonymous: 'nobody’s name (anonymous)',
  UserName: 'user name and password',
  Certificate: 'a user certificate',
  IssuedToken: 'a token that another service has issued',
} as const;
