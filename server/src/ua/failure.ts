import { statusCodeNamed } from '@loyal-hinge/core';

/** Why a call failed: a status code of the standard, and what the other side or the line said with it. */
export interface UaFailure {
  readonly code: string;
  readonly reason: string;
  /** True where the connection was closed without any code. */
  readonly closed: boolean;
}

/** Makes a failure out of whatever the UA library throws. */
export function failureOf(error: unknown): UaFailure {
  const text = error instanceof Error ? error.message : String(error);
  const named = /\bBad[A-Z][A-Za-z]+/.exec(text)?.[0] ?? numbered(text);
  const reason = firstSentence(text);
  if (named) return { code: named, reason: '', closed: false };
  if (/time ?out|timed out/i.test(text)) return { code: 'BadTimeout', reason: '', closed: false };
  if (/socket has been disconnected|connection.*(closed|reset|abort)|ECONNRESET|EPIPE|premature/i.test(text))
    return { code: 'BadConnectionClosed', reason, closed: true };
  return { code: 'BadUnexpectedError', reason, closed: false };
}

function numbered(text: string): string | null {
  const hex = /0x(8[0-9a-f]{7})/i.exec(text)?.[1];
  return hex ? statusCodeNamed(Number.parseInt(hex, 16)) : null;
}

const firstSentence = (text: string): string => (text.split('\n')[0] ?? '').trim().slice(0, 200);
