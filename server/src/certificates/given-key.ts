import { createPrivateKey, X509Certificate } from 'node:crypto';
import { decodeBase64, readCertificate, readPem, writePem } from '@loyal-hinge/core';
import type { Certificate } from '@loyal-hinge/core';
import { exportKey } from '@loyal-hinge/core/issuing';
import { readPkcs12 } from '@loyal-hinge/core/pkcs12';
import type { ClientIdentity } from '@loyal-hinge/contract';
import { invalid } from '../http/problems.js';

/** A certificate with its key, and the issuers that came with it. */
export interface Keyed {
  readonly certificate: Certificate;
  readonly privateKeyPem: string;
  readonly others: readonly Certificate[];
}

type Wish<By extends ClientIdentity['by']> = Extract<ClientIdentity, { readonly by: By }>;

export const faulty = (place: string, says: string) => invalid(`${says} Nothing was stored.`, [{ place, says }]);

/** @throws a problem where the file can’t be read, or opened */
export function keyedInPkcs12({ base64, passphrase }: Wish<'pkcs12'>): Keyed {
  const read = readPkcs12(decodeBase64(base64) ?? new Uint8Array(), passphrase);
  if (!read.ok) throw faulty(read.says.includes('passphrase') ? 'passphrase' : 'base64', read.says);
  return read.entry;
}

const dayMs = 86_400_000;
/** A certificate starts a little earlier, so that clocks that lag take it at once. */
const clockSlackMs = 3_600_000;

/** Of a certificate that is issued now (ms since 1970). */
export function validFor(days: number): { readonly notBefore: number; readonly notAfter: number } {
  const notBefore = Date.now() - clockSlackMs;
  return { notBefore, notAfter: notBefore + days * dayMs };
}

/** A certificate that was issued just now for keys that were made here. */
export async function keyedAsIssued(der: Uint8Array, privateKey: CryptoKey): Promise<Keyed> {
  const read = readCertificate(der);
  if (!read.ok) throw new Error(read.says);
  return {
    certificate: read.certificate,
    privateKeyPem: writePem('PRIVATE KEY', await exportKey('pkcs8', privateKey)),
    others: [],
  };
}

/** The first certificate, where it can be read and the key is its own; further ones are its issuers. @throws a problem */
export function keyedInPem({ certificatePem, privateKeyPem }: Wish<'pem'>): Keyed {
  const pem = readPem(certificatePem);
  if (!pem.ok) throw faulty('certificatePem', `Line ${pem.fault.line}: ${pem.fault.says}.`);
  const [own, ...others] = pem.blocks
    .filter(({ label }) => label === 'CERTIFICATE')
    .map(({ der }) => {
      const read = readCertificate(der);
      if (!read.ok) throw faulty('certificatePem', read.says);
      return read.certificate;
    });
  if (!own) throw faulty('certificatePem', 'There is no certificate in this text.');
  let fits: boolean;
  try {
    fits = new X509Certificate(own.der).checkPrivateKey(createPrivateKey(privateKeyPem));
  } catch {
    throw faulty(
      'privateKeyPem',
      'This is no private key that can be read; one with a passphrase must be opened first.',
    );
  }
  if (!fits) throw faulty('privateKeyPem', 'This key does not belong to the certificate.');
  return { certificate: own, privateKeyPem, others };
}
