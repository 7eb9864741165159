import type { Certificate } from '../trust/certificate.js';
import type { DistinguishedName } from '../trust/x509/name.js';

/** A user certificate as rules of roles look at it: it and those above it that are known, in the words of such rules. */
export interface ShownCertificate {
  readonly thumbprints: readonly string[];
  /** By `subjectCriteria`. */
  readonly subjects: readonly string[];
  /** Whether all certificates above it are known, up to one that signed itself. */
  readonly isWhole: boolean;
}

/** @param above the certificates above it that are known, in any order */
export function shownCertificateOf(own: Certificate, above: readonly Certificate[]): ShownCertificate {
  const chain = [own];
  const left = [...above];
  for (;;) {
    const last = chain.at(-1) ?? own;
    const at = last.summary.selfIssued ? -1 : left.findIndex(({ subject }) => subject.equals(last.issuer));
    if (at < 0) break;
    chain.push(...left.splice(at, 1));
  }
  return {
    thumbprints: chain.map(({ thumbprint }) => thumbprint),
    subjects: chain.map(({ subject }) => subjectCriteria(subject)),
    isWhole: (chain.at(-1) ?? own).summary.selfIssued,
  };
}

/** Attributes of a subject in the order in which a rule names them (Part 18 §4.4.3). */
const attributes = [
  ['CN', '2.5.4.3'],
  ['O', '2.5.4.10'],
  ['OU', '2.5.4.11'],
  ['DC', '0.9.2342.19200300.100.1.25'],
  ['L', '2.5.4.7'],
  ['S', '2.5.4.8'],
  ['C', '2.5.4.6'],
  ['dnQualifier', '2.5.4.46'],
  ['serialNumber', '2.5.4.5'],
] as const;

/** A subject as a rule of the kind X509Subject names it (Part 18 §4.4.3), such as `CN="Control room"/O="Works"`. */
export const subjectCriteria = (subject: DistinguishedName): string =>
  attributes.flatMap(([name, type]) => subject.valuesOf(type).map((value) => `${name}="${value}"`)).join('/');

/** Digits without blanks or colons, in upper case, as thumbprints are written here. */
export const plainThumbprint = (written: string): string => written.replace(/[\s:]/g, '').toUpperCase();
