import { readCertificate } from '@loyal-hinge/core';
import type { Certificate } from '@loyal-hinge/core';
import { derOf } from './given.js';

/** The certificate in a PEM text; throws where there is none. */
export function findCertificateIn(pem: string): Certificate {
  const read = readCertificate(derOf(pem));
  if (!read.ok) throw new Error(read.says);
  return read.certificate;
}
