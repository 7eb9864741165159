import { isPassword, passwordLine } from './password-line';

describe('the line of a password', () => {
  it('fits its own password, and no other', async () => {
    const line = await passwordLine('made for the board');
    expect(line).not.toContain('made');
    expect([isPassword(line, 'made for the board'), isPassword(line, 'made for the boarD')]).toEqual([true, false]);
  });

  it('is another one each time, and the same with the same salt', async () => {
    expect(await passwordLine('a')).not.toBe(await passwordLine('a'));
    const salt = Buffer.alloc(16, 7);
    expect(await passwordLine('a', salt)).toBe(await passwordLine('a', salt));
  });

  it.each([undefined, '', 'scrypt', 'scrypt::', 'scrypt:AAAA:AAAA'])('fits nothing where it is %p', (line) => {
    expect(isPassword(line, '')).toBe(false);
  });
});
