import ipaddr from 'ipaddr.js';
import { numbersFrom, rangesOf } from './ranges.js';
import type { Point, Range, Ranges } from './ranges.js';

/** IP addresses as points of one dimension: IPv4 as its number, IPv6 as its number beyond all of IPv4’s. */
export type Family = 4 | 6;

const beyondFour = 1n << 33n;
const sixBits = 128n;
export const everyAddress: Readonly<Record<Family, Ranges>> = {
  4: [{ from: 0, to: 2 ** 32 }],
  6: [{ from: beyondFour, to: beyondFour + (1n << sixBits) }],
};

/** null: it is no address. IPv4 in four plain decimal parts; IPv6 without a zone. */
export function readAddress(text: string): number | bigint | null {
  if (/^\d{1,3}(\.\d{1,3}){3}$/.test(text)) {
    const parts = text.split('.').map(Number);
    return parts.every((part) => part < 256) ? parts.reduce((sum, part) => sum * 256 + part, 0) : null;
  }
  if (!text.includes(':') || text.includes('%') || !ipaddr.IPv6.isValid(text)) return null;
  return ipaddr.IPv6.parse(text).parts.reduce((sum, part) => (sum << 16n) | BigInt(part), 0n) + beyondFour;
}

export const familyOf = (address: Point): Family => (typeof address === 'bigint' ? 6 : 4);

export function sayAddress(address: Point): string {
  if (typeof address === 'number')
    return [24, 16, 8, 0].map((shift) => String(Math.floor(address / 2 ** shift) % 256)).join('.');
  const number = BigInt(address) - beyondFour;
  const parts = Array.from({ length: 8 }, (_, index) => Number((number >> BigInt(112 - index * 16)) & 0xffffn));
  return new ipaddr.IPv6(parts).toString();
}

/** The addresses of a prefix. @throws never: a length beyond the family’s gives one address */
export function prefixRange(address: number | bigint, length: number): Range {
  if (typeof address === 'number') {
    const size = 2 ** Math.max(0, 32 - length);
    const from = Math.floor(address / size) * size;
    return { from, to: from + size };
  }
  const size = 1n << BigInt(Math.max(0, 128 - length));
  const from = ((address - beyondFour) / size) * size + beyondFour;
  return { from, to: from + size };
}

/** An address, `address/length`, `address/mask` (IPv4, ones first) or `first-last`. null: it is none of these. */
export function readAddresses(text: string): Range | null {
  const dash = text.indexOf('-');
  if (dash > 0) {
    const first = readAddress(text.slice(0, dash).trim());
    const last = readAddress(text.slice(dash + 1).trim());
    if (first === null || last === null || familyOf(first) !== familyOf(last) || last < first) return null;
    return typeof last === 'bigint' ? { from: first, to: last + 1n } : { from: first, to: last + 1 };
  }
  const [written = '', mask, ...more] = text.split('/');
  const address = readAddress(written);
  if (address === null || more.length > 0) return null;
  const length = mask === undefined ? bitsOf(familyOf(address)) : lengthOfMask(mask, familyOf(address));
  return length === null ? null : prefixRange(address, length);
}

const bitsOf = (family: Family): number => (family === 4 ? 32 : 128);

function lengthOfMask(mask: string, family: Family): number | null {
  if (/^\d{1,3}$/.test(mask)) return Number(mask) <= bitsOf(family) ? Number(mask) : null;
  const ones = readAddress(mask);
  if (ones === null || familyOf(ones) !== family) return null;
  const bits =
    typeof ones === 'number' ? ones.toString(2).padStart(32, '0') : (ones - beyondFour).toString(2).padStart(128, '0');
  return /^1*0*$/.test(bits) ? bits.replaceAll('0', '').length : null;
}

/** Ranges of addresses in words: prefixes where one says it, else the first and the last. */
export const sayAddresses = (ranges: Ranges): readonly string[] => ranges.map(sayAddressRange);

function sayAddressRange({ from, to }: Range): string {
  const first = sayAddress(from);
  const family = familyOf(from);
  const size = BigInt(to) - BigInt(from);
  if (size === 1n) return first;
  const length = bitsOf(family) - (size.toString(2).length - 1);
  const isPrefix = (size & (size - 1n)) === 0n && (BigInt(from) - (family === 6 ? beyondFour : 0n)) % size === 0n;
  if (isPrefix) return `${first}/${length}`;
  return `${first}-${sayAddress(typeof to === 'bigint' ? to - 1n : Number(to) - 1)}`;
}

/** `80`, `80-90` or `80:90`; null: neither, or beyond 65535. */
export function readPorts(text: string): Range | null {
  const [, first, last] = /^\s*(\d{1,5})(?:\s*[-:]\s*(\d{1,5}))?\s*$/.exec(text) ?? [];
  if (first === undefined) return null;
  const [from, to] = [Number(first), Number(last ?? first)];
  return to <= 65_535 && from <= to ? numbersFrom(from, to) : null;
}

export const sayNumbers = (ranges: Ranges): readonly string[] =>
  ranges.map(({ from, to }) => (Number(to) - Number(from) === 1 ? String(from) : `${from}-${Number(to) - 1}`));

/** Both families’ addresses, or what is left of them. */
export const addressRanges = (parts: readonly Range[]): Ranges => rangesOf(parts);
