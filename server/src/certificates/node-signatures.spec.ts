import { certify, party, read, rootOf } from '../../../core/src/testing/pki.js';
import type { Algorithm } from '../../../core/src/testing/pki.js';
import { nodeVerifier } from './node-signatures.js';

describe('signatures by Node', () => {
  it.each<Algorithm>(['RSA', 'RSA-PSS', 'P-256', 'P-384', 'Ed25519'])(
    'with %s are told from those of others',
    async (algorithm) => {
      const [signer, other] = await Promise.all([party('CA', algorithm), party('CA', algorithm)]);
      const certificate = read(await certify(other, signer));
      expect(nodeVerifier(read(await rootOf(signer)).publicKey, certificate)).toBe(true);
      expect(nodeVerifier(read(await rootOf(other)).publicKey, certificate)).toBe(false);
    },
  );

  it('are no signatures where the key is of another kind', async () => {
    const [rsa, ec] = await Promise.all([party('CA', 'RSA'), party('CA', 'P-256')]);
    expect(nodeVerifier(read(await rootOf(ec)).publicKey, read(await rootOf(rsa)))).toBe(false);
  });
});
