import { statusCodeNamed } from './status-codes.js';

/**
 * The three connection messages of UA TCP (Part 6 §7.1.2): Hello, Acknowledge, Error.
 * Integers are unsigned, 32 bit, little endian; a string is its length followed by UTF-8 bytes.
 */

export interface ConnectionLimits {
  readonly protocolVersion: number;
  /** Bytes. */
  readonly receiveBufferSize: number;
  /** Bytes. */
  readonly sendBufferSize: number;
  /** Bytes; 0 means no limit. */
  readonly maxMessageSize: number;
  /** 0 means no limit. */
  readonly maxChunkCount: number;
}

/** What a peer answered to a Hello. */
export type HelloAnswer =
  | { readonly kind: 'acknowledge'; readonly limits: ConnectionLimits }
  | { readonly kind: 'error'; readonly code: number; readonly codeName: string; readonly reason: string }
  | { readonly kind: 'other'; readonly looksLike: ForeignProtocol; readonly firstBytesHex: string }
  | { readonly kind: 'incomplete' };

export type ForeignProtocol = 'HTTP' | 'TLS' | 'a text banner' | 'binary data of another protocol';

const headerLength = 8;
const acknowledgeLength = 28;
/** No connection message may be longer: the endpoint URL and the reason are held under 4096 bytes. */
const longestMessage = 8192;

/** Encodes a Hello (Part 6 §7.1.2.3). `endpointUrl` is cut at 4096 bytes, the longest that a server must accept. */
export function encodeHello(endpointUrl: string, limits: ConnectionLimits): Uint8Array {
  const url = new TextEncoder().encode(endpointUrl).slice(0, 4096);
  const message = new Uint8Array(headerLength + 24 + url.length);
  const view = new DataView(message.buffer);
  message.set(new TextEncoder().encode('HELF'));
  const words = [
    message.length,
    limits.protocolVersion,
    limits.receiveBufferSize,
    limits.sendBufferSize,
    limits.maxMessageSize,
    limits.maxChunkCount,
    url.length,
  ];
  words.forEach((word, index) => view.setUint32(4 + 4 * index, word, true));
  message.set(url, headerLength + 24);
  return message;
}

/** Reads what came back after a Hello. Never throws: foreign bytes are an answer too. */
export function decodeHelloAnswer(bytes: Uint8Array): HelloAnswer {
  if (bytes.length === 0) return { kind: 'incomplete' };
  const type = latin(bytes.subarray(0, 4));
  if (!'ACKF'.startsWith(type) && !'ERRF'.startsWith(type)) return foreign(bytes);
  if (bytes.length < headerLength) return { kind: 'incomplete' };
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = view.getUint32(4, true);
  if (length < headerLength || length > longestMessage) return foreign(bytes);
  if (bytes.length < length) return { kind: 'incomplete' };
  return type === 'ACKF' ? acknowledge(view, length, bytes) : error(view, length, bytes);
}

function acknowledge(view: DataView, length: number, bytes: Uint8Array): HelloAnswer {
  if (length < acknowledgeLength) return foreign(bytes);
  const word = (index: number): number => view.getUint32(headerLength + 4 * index, true);
  return {
    kind: 'acknowledge',
    limits: {
      protocolVersion: word(0),
      receiveBufferSize: word(1),
      sendBufferSize: word(2),
      maxMessageSize: word(3),
      maxChunkCount: word(4),
    },
  };
}

function error(view: DataView, length: number, bytes: Uint8Array): HelloAnswer {
  if (length < headerLength + 4) return foreign(bytes);
  const code = view.getUint32(headerLength, true);
  const declared = length >= headerLength + 8 ? view.getInt32(headerLength + 4, true) : -1;
  const start = headerLength + 8;
  const reason =
    declared > 0 ? new TextDecoder().decode(bytes.subarray(start, Math.min(start + declared, length))) : '';
  return { kind: 'error', code, codeName: statusCodeNamed(code), reason };
}

function foreign(bytes: Uint8Array): HelloAnswer {
  return { kind: 'other', looksLike: foreignProtocol(bytes), firstBytesHex: hex(bytes.subarray(0, 32)) };
}

/** Guesses from the first bytes what answered instead of a UA server. */
export function foreignProtocol(bytes: Uint8Array): ForeignProtocol {
  const start = latin(bytes.subarray(0, 64));
  if (/^(HTTP\/|<!doctype|<html)/i.test(start)) return 'HTTP';
  const [first, second] = bytes;
  if ((first === 0x15 || first === 0x16) && second === 0x03) return 'TLS';
  return /^[\x20-\x7e\r\n\t]{4,}/.test(start) ? 'a text banner' : 'binary data of another protocol';
}

const latin = (bytes: Uint8Array): string => String.fromCharCode(...bytes);

const hex = (bytes: Uint8Array): string => Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
