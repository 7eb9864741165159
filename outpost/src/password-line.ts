import { randomBytes, scrypt, scryptSync, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';

const length = 32;
const derive = promisify<string, Buffer, number, Buffer>(scrypt);

/** A password as it stands where it is only compared: nobody can read it there. @param salt of 16 bytes, never made of the password */
export async function passwordLine(password: string, salt: Buffer = randomBytes(16)): Promise<string> {
  return `scrypt:${salt.toString('base64url')}:${(await derive(password, salt, length)).toString('base64url')}`;
}

/** Whether a password is the one of a line; none fits where there is no line, in the same time. */
export function isPassword(line: string | undefined, password: string): boolean {
  const [, salt = 'AAAA', hash = ''] = (line ?? '').split(':');
  const made = scryptSync(password, Buffer.from(salt, 'base64url'), length);
  const known = Buffer.from(hash, 'base64url');
  return known.length === length && timingSafeEqual(made, known) && line !== undefined;
}
