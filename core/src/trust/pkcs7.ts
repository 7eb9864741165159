import { readCertificate } from './certificate.js';
import type { Certificate } from './certificate.js';
import { readCrl } from './crl.js';
import type { Crl } from './crl.js';
import {
  DerFault,
  contentOf,
  contextTag,
  derTag,
  encodingOf,
  expectTag,
  hexOf,
  partsOf,
  wholeElement,
} from './x509/der.js';

export type Pkcs7Result =
  | { readonly ok: true; readonly certificates: readonly Certificate[]; readonly crls: readonly Crl[] }
  | { readonly ok: false; readonly says: string };

/** 1.2.840.113549.1.7.2 */
const signedData = '2A864886F70D010702';

/**
 * Certificates and CRLs of a PKCS#7 bundle in DER (RFC 2315 §9, RFC 5652 §5.1): what is signed in it, and by whom, does not
 * matter here. One certificate that can’t be read refuses the whole of it.
 */
export function readPkcs7(der: Uint8Array): Pkcs7Result {
  try {
    const [type, explicit] = partsOf(wholeElement(der, derTag.sequence));
    if (!type || type.tag !== derTag.objectIdentifier || hexOf(contentOf(type)) !== signedData)
      return { ok: false, says: 'This is no PKCS#7 bundle of certificates.' };
    if (!explicit || explicit.tag !== contextTag(0)) throw new DerFault('a part is missing');
    const parts = partsOf(expectTag(partsOf(explicit)[0], derTag.sequence));
    const listed = (number: number): readonly Uint8Array[] =>
      parts
        .filter(({ tag }) => tag === contextTag(number))
        .flatMap((set) => partsOf(set).map((part) => encodingOf(part)));
    const certificates = listed(0).map((bytes) => {
      const read = readCertificate(bytes);
      if (!read.ok) throw new DerFault(read.says.replace(/\.$/, ''));
      return read.certificate;
    });
    const crls = listed(1).map((bytes) => {
      const read = readCrl(bytes);
      if (!read.ok) throw new DerFault(read.says.replace(/\.$/, ''));
      return read.crl;
    });
    return { ok: true, certificates, crls };
  } catch (error) {
    if (!(error instanceof DerFault)) throw error;
    return { ok: false, says: `This is no PKCS#7 bundle in DER: ${error.message}.` };
  }
}
