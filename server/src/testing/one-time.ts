import { createHmac } from 'node:crypto';

const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567';

/** The code of a secret in Base32 (RFC 4648 §6), `steps` time steps from now: RFC 6238 §4 with SHA-1 and six digits. */
export function oneTimeCode(secret: string, steps = 0, nowMs = Date.now()): string {
  const bits = [...secret].map((letter) => letters.indexOf(letter).toString(2).padStart(5, '0')).join('');
  const key = Buffer.from((bits.match(/.{8}/g) ?? []).map((octet) => Number.parseInt(octet, 2)));
  const counter = Buffer.alloc(8);
  counter.writeBigUInt64BE(BigInt(Math.floor(nowMs / 30_000) + steps));
  const mac = createHmac('sha1', key).update(counter).digest();
  const offset = (mac.at(-1) ?? 0) & 0x0f;
  return String((mac.readUInt32BE(offset) & 0x7fffffff) % 1_000_000).padStart(6, '0');
}
