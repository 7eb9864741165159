import { createPrivateKey } from 'node:crypto';
import { readCertificate, readPem, writePem } from '@loyal-hinge/core';
import type { Certificate } from '@loyal-hinge/core';
import type { KeyKind } from '@loyal-hinge/core/issuing';
import { invalid } from '../../http/problems.js';

export const dayMs = 86_400_000;
/** What is signed starts a little earlier, so that clocks that lag take it at once. */
export const clockSlackMs = 3_600_000;

export function openKey(pem: string, passphrase: string) {
  try {
    return createPrivateKey({ key: pem, passphrase });
  } catch {
    throw invalid('The passphrase does not open the key of the authority.', [
      { place: 'passphrase', says: 'Type it again. Nothing was signed.' },
    ]);
  }
}

export function kindOf(certificate: Certificate): KeyKind {
  const { kind, bits } = certificate.publicKey;
  if (kind === 'EC' && bits === 256) return 'P-256';
  if (kind === 'RSA' && (bits === 2048 || bits === 3072 || bits === 4096)) return `RSA ${bits}`;
  throw invalid('The key of this authority is of a kind that can’t be used here.', [
    { place: 'certificatePem', says: 'RSA with 2048, 3072 or 4096 bits, or P-256.' },
  ]);
}

export function certificateIn(pem: string): Certificate {
  const read = readPem(pem);
  if (!read.ok)
    throw invalid(`Line ${read.fault.line}: ${read.fault.says}.`, [{ place: 'certificatePem', says: read.fault.says }]);
  const block = read.blocks.find(({ label }) => label === 'CERTIFICATE');
  const certificate = block ? readCertificate(block.der) : null;
  if (!certificate?.ok) {
    const says = certificate ? certificate.says : 'There is no certificate in this text.';
    throw invalid(says, [{ place: 'certificatePem', says }]);
  }
  return certificate.certificate;
}

export const pemOf = (der: Uint8Array): string => writePem('CERTIFICATE', der);
