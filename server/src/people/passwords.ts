import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';

/** What deriving a key costs (RFC 7914 §2): 2^ln rounds over 128·r bytes each, p times. */
interface Cost {
  readonly ln: number;
  readonly r: number;
  readonly p: number;
}

/** 64 MiB. Every hash says what it cost, so that this may rise without anybody’s password being lost. */
const today: Cost = { ln: 16, r: 8, p: 1 };
/** No hash may ask for more memory than four times that, or for more than as many goes. */
const most: Cost = { ln: 18, r: 8, p: 4 };
const saltLength = 16;
const keyLength = 32;

function derive(password: string, salt: Buffer, { ln, r, p }: Cost): Promise<Buffer> {
  const options = { N: 2 ** ln, r, p, maxmem: 2 * 128 * r * 2 ** ln };
  return new Promise((resolve, reject) =>
    scrypt(password.normalize('NFKC'), salt, keyLength, options, (error, key) =>
      error ? reject(error) : resolve(key),
    ),
  );
}

const written = ({ ln, r, p }: Cost, salt: Buffer, key: Buffer): string =>
  `$scrypt$ln=${ln},r=${r},p=${p}$${salt.toString('base64')}$${key.toString('base64')}`;

/** `$scrypt$ln=…,r=…,p=…$salt$key`, salt and key in Base64. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(saltLength);
  return written(today, salt, await derive(password, salt, today));
}

/** A hash that no password fits, and that takes as long to compare with as anybody’s. */
export const nobodysHash = (): string => written(today, randomBytes(saltLength), randomBytes(keyLength));

/** @returns whether the password is the one that was hashed; not where the hash is none, or asks for too much */
export async function isPassword(password: string, hash: string): Promise<boolean> {
  const read = readHash(hash);
  if (!read) return false;
  const derived = await derive(password, read.salt, read.cost);
  return read.key.length === derived.length && timingSafeEqual(read.key, derived);
}

const form = /^\$scrypt\$ln=(\d{1,2}),r=(\d{1,2}),p=(\d{1,2})\$([\w+/]+={0,2})\$([\w+/]+={0,2})$/;
/** How hashes began before they told their cost, and what it was. */
const [before, costBefore] = [/^scrypt\$/, '$$scrypt$$ln=16,r=8,p=1$$'] as const;

function readHash(hash: string): { readonly cost: Cost; readonly salt: Buffer; readonly key: Buffer } | null {
  const [, ln, r, p, salt, key] = form.exec(hash.replace(before, costBefore)) ?? [];
  const cost = { ln: Number(ln), r: Number(r), p: Number(p) };
  const isWithin = (name: keyof Cost): boolean => cost[name] >= 1 && cost[name] <= most[name];
  if (salt === undefined || key === undefined || !isWithin('ln') || !isWithin('r') || !isWithin('p')) return null;
  return { cost, salt: Buffer.from(salt, 'base64'), key: Buffer.from(key, 'base64') };
}
