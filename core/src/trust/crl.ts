import { sha256 } from '@noble/hashes/sha2';
import type { Instant } from '../time.js';
import { signatureAlgorithmOf } from './x509/algorithms.js';
import type { SignatureAlgorithm } from './x509/algorithms.js';
import {
  DerFault,
  booleanOf,
  contentOf,
  contextTag,
  derTag,
  encodingOf,
  expectTag,
  hexOf,
  integerBytes,
  partsOf,
  sameBytes,
  smallInteger,
  timeOf,
  wholeBytesOf,
  wholeElement,
} from './x509/der.js';
import type { DerElement } from './x509/der.js';
import { extensionsIn } from './x509/extensions.js';
import { DistinguishedName } from './x509/name.js';
import type { Signed } from './x509/signatures.js';

/** Why a certificate was revoked (RFC 5280 §5.3.1). */
export const revocationReasons = [
  'unspecified',
  'keyCompromise',
  'cACompromise',
  'affiliationChanged',
  'superseded',
  'cessationOfOperation',
  'certificateHold',
  null,
  'removeFromCRL',
  'privilegeWithdrawn',
  'aACompromise',
] as const;
export type RevocationReason = NonNullable<(typeof revocationReasons)[number]>;

export interface RevokedEntry {
  readonly serialNumber: string;
  readonly since: Instant;
  readonly reason: RevocationReason;
}

/** A certificate revocation list that was read (RFC 5280 §5). */
export interface Crl extends Signed {
  /** SHA-256 of the DER encoding in capital hexadecimal. */
  readonly id: string;
  readonly der: Uint8Array;
  readonly issuer: DistinguishedName;
  readonly thisUpdate: number;
  readonly nextUpdate: number | null;
  readonly number: string | null;
  readonly authorityKeyId: string | null;
  readonly revoked: ReadonlyMap<string, RevokedEntry>;
  /** Which certificates it speaks of. */
  readonly scope: 'all' | 'authorities' | 'others';
  /** Why it can’t be used at all, whoever signed it; null where it can. */
  readonly unusable: string | null;
}

export type CrlResult = { readonly ok: true; readonly crl: Crl } | { readonly ok: false; readonly says: string };

/** Reads one DER CRL; what is not one gives a sentence. */
export function readCrl(der: Uint8Array): CrlResult {
  try {
    return { ok: true, crl: crlOf(Uint8Array.from(der)) };
  } catch (error) {
    if (!(error instanceof DerFault)) throw error;
    return { ok: false, says: `This is not a CRL in DER: ${error.message}.` };
  }
}

function crlOf(der: Uint8Array): Crl {
  const parts = partsOf(wholeElement(der, derTag.sequence));
  if (parts.length !== 3) throw new DerFault(`it has ${parts.length} parts and not three`);
  const [signed, algorithm, signature] = parts as [DerElement, DerElement, DerElement];
  const fields = [...partsOf(expectTag(signed, derTag.sequence))];
  if (fields[0]?.tag === derTag.integer && smallInteger(fields[0]) !== 1) throw new DerFault('its version is unknown');
  if (fields[0]?.tag === derTag.integer) fields.shift();
  const innerAlgorithm = expectTag(fields.shift(), derTag.sequence);
  if (!sameBytes(encodingOf(algorithm), encodingOf(innerAlgorithm)))
    throw new DerFault('it names one signature algorithm inside and another outside');
  const issuer = DistinguishedName.ofIssuer(expectTag(fields.shift(), derTag.sequence));
  const thisUpdate = timeOf(some(fields.shift()));
  const nextUpdate = isTime(fields[0]) ? timeOf(some(fields.shift())) : null;
  const entries = fields[0]?.tag === derTag.sequence ? partsOf(some(fields.shift())) : [];
  const extensions = fields[0]?.tag === contextTag(0) ? crlExtensionsOf(fields[0]) : noExtensions;
  const revoked = entries.map(entryOf);
  const indirect = revoked.some((entry) => entry.unknownCritical !== null);
  return {
    id: hexOf(sha256(der)),
    der,
    issuer,
    thisUpdate,
    nextUpdate,
    number: extensions.number,
    authorityKeyId: extensions.authorityKeyId,
    revoked: new Map(revoked.map((entry) => [entry.serialNumber, entry])),
    scope: extensions.scope,
    unusable:
      extensions.unusable ??
      (indirect
        ? 'It holds entries with a critical extension that is not known here, such as those of other issuers.'
        : null),
    signed: encodingOf(signed),
    signatureAlgorithm: signatureAlgorithmOf(algorithm) as SignatureAlgorithm,
    signature: wholeBytesOf(signature),
  };
}

const isTime = (element: DerElement | undefined): boolean =>
  element?.tag === derTag.utcTime || element?.tag === derTag.generalizedTime;

function some(element: DerElement | undefined): DerElement {
  if (!element) throw new DerFault('a part is missing');
  return element;
}

function entryOf(element: DerElement): RevokedEntry & { readonly unknownCritical: string | null } {
  const [serial, since, extensions] = partsOf(expectTag(element, derTag.sequence));
  const found = extensions ? extensionsOfEntry(extensions) : [];
  const reason = found.find(({ oid }) => oid === '2.5.29.21');
  const code = reason ? smallInteger(wholeElement(reason.value, derTag.enumerated), derTag.enumerated) : 0;
  return {
    serialNumber: hexOf(integerBytes(expectTag(serial, derTag.integer))),
    since: new Date(timeOf(some(since))).toISOString(),
    reason: revocationReasons[code] ?? 'unspecified',
    unknownCritical: found.find(({ oid, critical }) => critical && oid !== '2.5.29.21')?.oid ?? null,
  };
}

/** The extensions of an entry stand without an explicit tag around them. */
const extensionsOfEntry = (list: DerElement) => extensionsIn({ ...list, from: list.start });

interface CrlExtensions {
  readonly number: string | null;
  readonly authorityKeyId: string | null;
  readonly scope: Crl['scope'];
  readonly unusable: string | null;
}

const noExtensions: CrlExtensions = { number: null, authorityKeyId: null, scope: 'all', unusable: null };

function crlExtensionsOf(explicit: DerElement): CrlExtensions {
  let found = noExtensions;
  for (const { oid, critical, value } of extensionsIn(explicit)) {
    if (oid === '2.5.29.20') found = { ...found, number: hexOf(integerBytes(wholeElement(value, derTag.integer))) };
    else if (oid === '2.5.29.35') {
      const keyId = partsOf(wholeElement(value, derTag.sequence)).find(({ tag }) => tag === contextTag(0, false));
      found = { ...found, authorityKeyId: keyId ? hexOf(contentOf(keyId)) : null };
    } else if (oid === '2.5.29.27')
      found = {
        ...found,
        unusable: 'It is a delta CRL: it says only what has changed since another one. Give the full CRL.',
      };
    else if (oid === '2.5.29.28') found = { ...found, ...distributionOf(wholeElement(value, derTag.sequence)) };
    else if (critical) found = { ...found, unusable: `It has a critical extension that is not known here (${oid}).` };
  }
  return found;
}

/** IssuingDistributionPoint (RFC 5280 §5.2.5): which certificates the list speaks of. */
function distributionOf(element: DerElement): Pick<CrlExtensions, 'scope'> | Pick<CrlExtensions, 'scope' | 'unusable'> {
  const flag = (number: number): boolean => {
    const part = partsOf(element).find(({ tag }) => tag === contextTag(number, false));
    return part ? booleanOf(part) : false;
  };
  const someReasons = partsOf(element).some(({ tag }) => tag === contextTag(3, false));
  if (flag(4))
    return {
      scope: 'all',
      unusable: 'It is an indirect CRL: it speaks for other issuers too. Give the issuer’s own CRL.',
    };
  if (someReasons)
    return { scope: 'all', unusable: 'It holds only those revoked for some reasons. Give the full CRL.' };
  if (flag(5)) return { scope: 'all', unusable: 'It speaks of attribute certificates only.' };
  return { scope: flag(1) ? 'others' : flag(2) ? 'authorities' : 'all' };
}
