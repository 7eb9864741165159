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

  it('refuses a secret for another target, and takes the same one whatever the order of its fields', () => {
    const target = { applicationUri: 'urn:a', endpointUrl: 'opc.tcp://a:1', pinnedAddress: null, userName: 'u' };
    const sealed = sealing.seal('a', 'secret', target);
    const turned = Object.fromEntries(Object.entries(target).reverse()) as typeof target;
    expect(sealing.open('a', sealed, turned)).toBe('secret');
    expect(() => sealing.open('a', sealed, { ...target, pinnedAddress: '10.0.0.66' })).toThrow();
    expect(() => sealing.open('a', sealed)).toThrow();
  });

  it('requires a key of 32 bytes', () => {
    expect(() => new Sealing(randomBytes(16))).toThrow(/32 bytes/);
  });
});
