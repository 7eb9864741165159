import type { Codec } from '../ndr/codec.js';
import { lettersOf } from '../ndr/codec.js';
import type { NdrReader } from '../ndr/streams.js';
import { NdrWriter } from '../ndr/streams.js';

/** Towers: by which protocols an address is reached (MS-DCOM 2.2.19.3). */
export const tcp = 7;
const mostLetters = 32_000;

/** Where something is reached: a name or an address, and a port where one is said. */
export interface StringBinding {
  readonly tower: number;
  readonly host: string;
  readonly port: number | null;
}
export interface SecurityBinding {
  readonly service: number;
  readonly principal: string;
}
/** A DUALSTRINGARRAY: where something is reached, and by which security (MS-DCOM 2.2.19). */
export interface Bindings {
  readonly strings: readonly StringBinding[];
  readonly security: readonly SecurityBinding[];
}
export const noBindings: Bindings = { strings: [], security: [] };

/** `furnace-3[49152]` taken apart. */
function placeOf(address: string): Omit<StringBinding, 'tower'> {
  const parts = /^(.*)\[(\d{1,5})\]$/s.exec(address);
  return parts ? { host: parts[1] ?? '', port: Number(parts[2]) } : { host: address, port: null };
}
export const bindingText = ({ host, port }: Omit<StringBinding, 'tower'>): string =>
  port === null ? host : `${host}[${port}]`;

interface Letters {
  readonly count: number;
  readonly securityAt: number;
  readonly octets: Uint8Array;
}

function toLetters({ strings, security }: Bindings): Letters {
  const writer = new NdrWriter();
  const text = (letters: string) => {
    writer.bytes(Buffer.from(letters, 'utf16le'));
    writer.u16(0);
  };
  for (const binding of strings) {
    writer.u16(binding.tower);
    text(bindingText(binding));
  }
  // An empty list is two zeros, as a list that ends is one after its last entry.
  if (strings.length === 0) writer.u16(0);
  writer.u16(0);
  const securityAt = writer.at / 2;
  for (const { service, principal } of security) {
    writer.u16(service);
    writer.u16(0xffff);
    text(principal);
  }
  if (security.length === 0) writer.u16(0);
  writer.u16(0);
  const octets = writer.done();
  return { count: octets.length / 2, securityAt, octets };
}

function fromLetters(reader: NdrReader, count: number, securityAt: number): Bindings {
  if (count > mostLetters || securityAt > count) throw reader.fault('The sizes of bindings don’t fit.');
  const letters = lettersOf(reader, count);
  const part = (from: number, to: number, skipped: number) => {
    const found: { readonly first: number; readonly text: string }[] = [];
    for (let at = from; at < to && letters.charCodeAt(at) !== 0;) {
      const end = letters.indexOf('\0', at + 1 + skipped);
      const stop = end < 0 || end > to ? to : end;
      found.push({ first: letters.charCodeAt(at), text: letters.slice(at + 1 + skipped, stop) });
      at = stop + 1;
    }
    return found;
  };
  return {
    strings: part(0, securityAt, 0).map(({ first, text }) => ({ tower: first, ...placeOf(text) })),
    security: part(securityAt, count, 1).map(({ first, text }) => ({ service: first, principal: text })),
  };
}

/** Bindings within an object reference: without a number of elements before them. */
export function readBindings(reader: NdrReader): Bindings {
  const [count, securityAt] = [reader.u16(), reader.u16()];
  return fromLetters(reader, count, securityAt);
}
export function writeBindings(writer: NdrWriter, bindings: Bindings): void {
  const { count, securityAt, octets } = toLetters(bindings);
  writer.u16(count);
  writer.u16(securityAt);
  writer.bytes(octets);
}

/** Bindings as a parameter. */
export const dualStrings: Codec<Bindings> = {
  align: 4,
  least: 8,
  none: noBindings,
  write: (writer, value) => {
    writer.align(4);
    writer.u32(toLetters(value).count);
    writeBindings(writer, value);
  },
  read: (reader) => {
    const most = reader.count(2);
    const [count, securityAt] = [reader.u16(), reader.u16()];
    if (count !== most) throw reader.fault('Bindings have another number of letters than they say.');
    const value = fromLetters(reader, count, securityAt);
    return () => value;
  },
};
