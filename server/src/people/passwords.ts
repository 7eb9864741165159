import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';

/** scrypt (RFC 7914) with 64 MiB: N = 2^16, r = 8, p = 1. */
const cost = { N: 65_536, r: 8, p: 1, maxmem: 128 * 1024 * 1024 };
const length = 32;

const derive = (password: string, salt: Buffer): Promise<Buffer> =>
  new Promise((resolve, reject) =>
    scrypt(password.normalize('NFKC'), salt, length, cost, (error, key) => (error ? reject(error) : resolve(key))),
  );

/** `scrypt$salt$key`, both in Base64. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  return `scrypt$${salt.toString('base64')}$${(await derive(password, salt)).toString('base64')}`;
}

export async function isPassword(password: string, hash: string): Promise<boolean> {
  const [, salt, key] = hash.split('$');
  if (!salt || !key) return false;
  const wanted = Buffer.from(key, 'base64');
  const derived = await derive(password, Buffer.from(salt, 'base64'));
  return wanted.length === derived.length && timingSafeEqual(wanted, derived);
}
