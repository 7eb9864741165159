import { exportKey, freshSerialNumber, issueAuthorityCertificate, makeKeys } from '@loyal-hinge/core/issuing';
import type { Signer } from '@loyal-hinge/core/issuing';

const dayMs = 86_400_000;

/** An authority whose key never comes to the product. */
export async function authorityElsewhere(commonName: string): Promise<Signer & { readonly certificate: Uint8Array }> {
  const { publicKey, privateKey } = await makeKeys('P-256');
  const wish = {
    subject: { commonName, organization: 'Marrowby Glass' },
    publicKey: await exportKey('spki', publicKey),
    serialNumber: freshSerialNumber(),
    notBefore: Date.now() - dayMs,
    notAfter: Date.now() + 900 * dayMs,
    pathLength: 0,
  };
  const certificate = await issueAuthorityCertificate(wish, { kind: 'P-256', privateKey, certificate: null });
  return { kind: 'P-256', privateKey, certificate };
}
