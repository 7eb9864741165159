import { scryptSync } from 'node:crypto';
import { hashPassword, isPassword, nobodysHash } from './passwords.js';

const salt = Buffer.from('a salt of its own');
const hashed = (ln: number, r = 8, p = 1): string => {
  const key = scryptSync('correct horse', salt, 32, { N: 2 ** ln, r, p, maxmem: 512 * 1024 * 1024 });
  return `$scrypt$ln=${ln},r=${r},p=${p}$${salt.toString('base64')}$${key.toString('base64')}`;
};

describe('a password', () => {
  it('fits its own hash and no other', async () => {
    const hash = await hashPassword('correct horse');
    expect(hash).not.toContain('correct');
    expect([
      await isPassword('correct horse', hash),
      await isPassword('Correct horse', hash),
      await isPassword('x', 'nonsense'),
      await isPassword('correct horse', nobodysHash()),
    ]).toEqual([true, false, false, false]);
  });

  it('fits a hash of any cost that the hash tells, and one from before hashes told it', async () => {
    const [, , , , key] = hashed(16).split('$');
    for (const hash of [hashed(4), hashed(10, 4, 2), `scrypt$${salt.toString('base64')}$${key ?? ''}`])
      expect([await isPassword('correct horse', hash), await isPassword('Correct horse', hash)]).toEqual([true, false]);
  });

  it('fits no hash that asks for more than a server can give, or that lies about what it is', async () => {
    const good = hashed(4);
    for (const [from, to] of [
      ['ln=4', 'ln=40'],
      ['ln=4', 'ln=0'],
      ['r=8', 'r=99'],
      ['p=1', 'p=99'],
      ['ln=4', 'ln=5'],
      ['$scrypt', '$argon2id'],
    ] as const)
      expect([to, await isPassword('correct horse', good.replace(from, to))]).toEqual([to, false]);
    expect(await isPassword('correct horse', good.slice(0, good.lastIndexOf('$') + 1))).toBe(false);
  });
});
