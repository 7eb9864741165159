import type { ConversationMessage, ConversationView } from '@loyal-hinge/contract';

export const protocolWords: Readonly<Record<ConversationView['protocol'], string>> = {
  'opc.tcp': 'OPC UA (UA TCP)',
  dcerpc: 'DCOM (RPC)',
  tls: 'TLS',
  tcp: 'a protocol that is not recognised',
};

/** “0.8 ms”, “2.1 s”, “4 min 3 s”. */
export function passedWords(ms: number): string {
  if (ms < 1000) return `${ms < 10 ? ms.toFixed(1) : Math.round(ms)} ms`;
  if (ms < 60_000) return `${(ms / 1000).toFixed(1)} s`;
  const seconds = Math.round(ms / 1000);
  return `${Math.floor(seconds / 60)} min ${seconds % 60} s`;
}

/** “GetEndpoints”, “Answer to GetEndpoints”, “asks for a connection”. */
export function messageTitle({ what, isAnswer, layer, says, outcome }: ConversationMessage): string {
  if (layer === 'connection') return says;
  if (!isAnswer || /acknowledge|refused|Error|^Server|Hello|Encrypted|^Part/i.test(what)) return what;
  return outcome === 'badly' ? `${what} is refused` : `Answer to ${what}`;
}

const perLine = 16;

/** Bytes for reading: where they stand, their values, and what of them are letters. */
export function byteLines(base64: string): readonly { at: string; values: string; letters: string }[] {
  const bytes = Uint8Array.from(atob(base64), (sign) => sign.charCodeAt(0));
  return Array.from({ length: Math.ceil(bytes.length / perLine) }, (_, line) => {
    const part = [...bytes.subarray(line * perLine, (line + 1) * perLine)];
    return {
      at: String(line * perLine),
      values: part.map((byte) => byte.toString(16).padStart(2, '0')).join(' '),
      letters: part.map((byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·')).join(''),
    };
  });
}
