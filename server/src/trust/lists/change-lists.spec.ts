import { readCertificate } from '@loyal-hinge/core';
import { certify, party } from '../../../../core/src/testing/pki.js';
import { changedBytes, differing } from './change-lists.js';
import { noLists } from './store.js';

const garbage = Uint8Array.from([0x30, 3, 1, 1, 255]);

async function known() {
  const display = await party('display');
  const der = await certify(display, display);
  const result = readCertificate(der);
  if (!result.ok) throw new Error(result.says);
  const { certificate } = result;
  return { der, certificate, shelf: { certificates: new Map([[certificate.thumbprint, certificate]]), crls: [] } };
}

describe('lists by bytes', () => {
  it('keep what can’t be read: it is not ours to lose', async () => {
    const { der, certificate, shelf } = await known();
    const before = { ...noLists, trusted: [garbage], trustedCrls: [garbage] };
    const change = {
      kind: 'list-certificate',
      holderId: 'furnace',
      list: 'trusted',
      thumbprint: certificate.thumbprint,
      until: null,
    } as const;
    const after = changedBytes(before, [change], shelf);
    expect(after.trusted).toEqual([der, garbage]);
    expect(after.trustedCrls).toEqual([garbage]);
    expect(differing(before, after)).toEqual(['trusted']);
  });

  it('that hold the change already do not differ', async () => {
    const { der, certificate, shelf } = await known();
    const before = { ...noLists, trusted: [der] };
    const change = {
      kind: 'list-certificate',
      holderId: 'furnace',
      list: 'trusted',
      thumbprint: certificate.thumbprint,
      until: null,
    } as const;
    expect(differing(before, changedBytes(before, [change], shelf))).toEqual([]);
  });

  it('in another order are the same lists', () => {
    const [a, b] = [Uint8Array.from([1]), Uint8Array.from([2])];
    expect(differing({ ...noLists, issuers: [a, b] }, { ...noLists, issuers: [b, a] })).toEqual([]);
    expect(differing({ ...noLists, issuers: [a, b] }, { ...noLists, issuers: [a] })).toEqual(['issuers']);
  });
});
