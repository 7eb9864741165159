import { certify, party, read } from '../testing/pki.js';
import { differencesBetween } from './compare.js';

const told = (...summaries: Parameters<typeof differencesBetween>) =>
  differencesBetween(...summaries).map(({ what }) => what);

describe('two certificates beside each other', () => {
  it('differ in validity and serial number where one was renewed with its key', async () => {
    const [works, furnace] = [await party('Works CA'), await party('furnace')];
    const before = read(await certify(furnace, works, { serial: '01' })).summary;
    const after = read(await certify(furnace, works, { serial: '02' })).summary;
    expect(told(before, after)).toEqual(['serial number']);
    const moved = { ...after, notBefore: '2026-01-01T00:00:00.000Z', notAfter: '2031-01-01T00:00:00.000Z' };
    expect(told(before, moved)).toEqual(['valid from', 'valid until', 'serial number']);
  });

  it('differ in their issuer and key where somebody else made one', async () => {
    const [works, furnace, stranger] = [await party('Works CA'), await party('furnace'), await party('furnace')];
    const known = read(await certify(furnace, works, { serial: '01' })).summary;
    const here = read(await certify(stranger, stranger, { serial: '01' })).summary;
    expect(differencesBetween(known, here)).toContainEqual({
      what: 'issuer',
      known: 'CN=Works CA, O=Works',
      here: 'itself',
    });
  });

  it('differ in nothing where it is the same one, in whatever order its names stand', async () => {
    const furnace = await party('furnace');
    const { summary } = read(await certify(furnace, furnace, { dns: ['b', 'a'] }));
    expect(differencesBetween(summary, { ...summary, dnsNames: ['a', 'b'] })).toEqual([]);
  });
});
