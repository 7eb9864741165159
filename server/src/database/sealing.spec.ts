import { randomBytes } from 'node:crypto';
import { Sealing } from './sealing.js';

const sealing = new Sealing(randomBytes(32));

describe('sealing', () => {
  it('opens what it sealed', () => {
    expect(sealing.open('a', sealing.seal('a', 'secret ✓'))).toBe('secret ✓');
  });

  it('seals the same secret differently each time, and never in clear', () => {
    const [one, other] = [sealing.seal('a', 'secret'), sealing.seal('a', 'secret')];
    expect(one).not.toBe(other);
    expect(Buffer.from(one, 'base64').toString('latin1')).not.toContain('secret');
  });

  it('refuses a secret under another name, a changed one, and another key', () => {
    const sealed = sealing.seal('a', 'secret');
    const changed = Buffer.from(sealed, 'base64');
    changed[changed.length - 1] = (changed[changed.length - 1] ?? 0) ^ 1;
    expect(() => sealing.open('b', sealed)).toThrow();
    expect(() => sealing.open('a', changed.toString('base64'))).toThrow();
    expect(() => new Sealing(randomBytes(32)).open('a', sealed)).toThrow();
  });

  it('wants a key of 32 bytes', () => {
    expect(() => new Sealing(randomBytes(16))).toThrow(/32 bytes/);
  });
});
