import { randomBytes, scryptSync, timingSafeEqual } from 'node:crypto';

const length = 32;

/** A password as it stands in a gateway’s file: nobody can read it there. */
export function passwordLine(password: string): string {
  const salt = randomBytes(16);
  return `scrypt:${salt.toString('base64url')}:${scryptSync(password, salt, length).toString('base64url')}`;
}

/** Whether a password is the one of a line; none fits where there is no line, in the same time. */
export function isPassword(line: string | undefined, password: string): boolean {
  const [, salt = 'AAAA', hash = ''] = (line ?? '').split(':');
  const made = scryptSync(password, Buffer.from(salt, 'base64url'), length);
  const known = Buffer.from(hash, 'base64url');
  return known.length === length && timingSafeEqual(made, known) && line !== undefined;
}
