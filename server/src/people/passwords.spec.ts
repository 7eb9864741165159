import { hashPassword, isPassword } from './passwords.js';

describe('a password', () => {
  it('fits its own hash and no other', async () => {
    const hash = await hashPassword('correct horse');
    expect(hash).not.toContain('correct');
    expect([
      await isPassword('correct horse', hash),
      await isPassword('Correct horse', hash),
      await isPassword('x', 'nonsense'),
    ]).toEqual([true, false, false]);
  });
});
