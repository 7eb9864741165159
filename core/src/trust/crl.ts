import { sha256 } from '@noble/hashes/sha2';
import type { Instant } from '../time.js';
import { signatureAlgorithmOf } from './x509/algorithms.js';
import type { SignatureAlgorithm } from './x509/algorithms.js';
import {
  DerFault,
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
import { issuingPointOf, wholeScope } from './x509/distribution-points.js';
import type { IssuingPoint } from './x509/distribution-points.js';
import { generalNameOf } from './x509/general-name.js';
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

type Entries = ReadonlyMap<string, RevokedEntry>;

/** A certificate revocation list that was read (RFC 5280 §5). */
export interface Crl extends Signed {
  /** SHA-256 of the DER encoding in capital hexadecimal. */
  readonly id: string;
  readonly der: Uint8Array;
  readonly issuer: DistinguishedName;
  readonly thisUpdate: number;
  readonly nextUpdate: number | null;
  /** In hexadecimal. */
  readonly number: string | null;
  /** The number of the CRL that it builds on, where it tells only what has changed since (§5.2.4); null: it is complete. */
  readonly deltaOf: string | null;
  readonly authorityKeyId: string | null;
  /** Certificates of its own issuer, by serial number. */
  readonly revoked: Entries;
  /** Those of other issuers, by the key of the issuer’s name (§5.3.3). */
  readonly ofOthers: ReadonlyMap<string, Entries>;
  /** How many certificates it names. */
  readonly count: number;
  /** Which certificates it speaks of, and for which reasons (§5.2.5). */
  readonly scope: IssuingPoint;
  /** Why it can’t be used at all, whoever signed it; null where it can. */
  readonly unusable: string | null;
}

/** What a CRL says of a certificate by its issuer’s name and its serial number. */
export const crlEntryOf = (crl: Crl, issuer: DistinguishedName, serialNumber: string): RevokedEntry | null =>
  (issuer.equals(crl.issuer) ? crl.revoked : crl.ofOthers.get(issuer.key))?.get(serialNumber) ?? null;

/** Whether it speaks alone of all certificates of its issuer, for all reasons. */
export const speaksOfAll = ({ unusable, deltaOf, scope }: Crl): boolean =>
  unusable === null &&
  deltaOf === null &&
  scope.name === null &&
  scope.certificates === 'all' &&
  scope.reasons === null;

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
  const list = fields[0]?.tag === derTag.sequence ? partsOf(some(fields.shift())) : [];
  const extensions = fields[0]?.tag === contextTag(0) ? crlExtensionsOf(fields[0]) : noExtensions;
  const entries = revokedIn(list, issuer, extensions.scope.isIndirect);
  return {
    id: hexOf(sha256(der)),
    der,
    issuer,
    thisUpdate,
    nextUpdate,
    ...extensions,
    ...entries,
    unusable: extensions.unusable ?? entries.unusable,
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

interface ReadEntries extends Pick<Crl, 'revoked' | 'ofOthers' | 'count'> {
  readonly unusable: string | null;
}

/** An entry names its certificate’s issuer where that is another one than before it (RFC 5280 §5.3.3). */
function revokedIn(list: readonly DerElement[], own: DistinguishedName, isIndirect: boolean): ReadEntries {
  const revoked = new Map<string, RevokedEntry>();
  const ofOthers = new Map<string, Map<string, RevokedEntry>>();
  let entries = revoked;
  let unusable: string | null = null;
  for (const element of list) {
    const { issuer, unknownCritical, ...entry } = readEntry(element);
    if (unknownCritical !== null)
      unusable = `An entry has a critical extension that is not known here (${unknownCritical}).`;
    if (issuer !== null && !isIndirect) unusable = 'It names other issuers, and does not say that it speaks for them.';
    if (issuer !== null) entries = issuer.equals(own) ? revoked : (ofOthers.get(issuer.key) ?? new Map());
    if (issuer !== null && entries !== revoked) ofOthers.set(issuer.key, entries);
    entries.set(entry.serialNumber, entry);
  }
  return { revoked, ofOthers, count: list.length, unusable };
}

const entryOids = { reason: '2.5.29.21', invalidSince: '2.5.29.24', issuer: '2.5.29.29' } as const;

function readEntry(
  element: DerElement,
): RevokedEntry & { readonly unknownCritical: string | null; readonly issuer: DistinguishedName | null } {
  const [serial, since, extensions] = partsOf(expectTag(element, derTag.sequence));
  const found = extensions ? extensionsOfEntry(extensions) : [];
  const reason = found.find(({ oid }) => oid === entryOids.reason);
  const issuer = found.find(({ oid }) => oid === entryOids.issuer);
  const code = reason ? smallInteger(wholeElement(reason.value, derTag.enumerated), derTag.enumerated) : 0;
  const known: readonly string[] = Object.values(entryOids);
  return {
    serialNumber: hexOf(integerBytes(expectTag(serial, derTag.integer))),
    since: new Date(timeOf(some(since))).toISOString(),
    reason: revocationReasons[code] ?? 'unspecified',
    issuer: issuer ? issuerNamedIn(issuer.value) : null,
    unknownCritical: found.find(({ oid, critical }) => critical && !known.includes(oid))?.oid ?? null,
  };
}

function issuerNamedIn(value: Uint8Array): DistinguishedName {
  const names = partsOf(wholeElement(value, derTag.sequence)).map(generalNameOf);
  const directory = names.find((name) => name.kind === 'directory');
  if (!directory) throw new DerFault('an entry names an issuer that has no directory name');
  return directory.name;
}

/** The extensions of an entry stand without an explicit tag around them. */
const extensionsOfEntry = (list: DerElement) => extensionsIn({ ...list, from: list.start });

type CrlExtensions = Pick<Crl, 'number' | 'deltaOf' | 'authorityKeyId' | 'scope' | 'unusable'>;

const noExtensions: CrlExtensions = {
  number: null,
  deltaOf: null,
  authorityKeyId: null,
  scope: wholeScope,
  unusable: null,
};

function crlExtensionsOf(explicit: DerElement): CrlExtensions {
  let found = noExtensions;
  for (const { oid, critical, value } of extensionsIn(explicit)) {
    const numberIn = (): string => hexOf(integerBytes(wholeElement(value, derTag.integer)));
    if (oid === '2.5.29.20') found = { ...found, number: numberIn() };
    else if (oid === '2.5.29.35') {
      const keyId = partsOf(wholeElement(value, derTag.sequence)).find(({ tag }) => tag === contextTag(0, false));
      found = { ...found, authorityKeyId: keyId ? hexOf(contentOf(keyId)) : null };
    } else if (oid === '2.5.29.27') found = { ...found, deltaOf: numberIn() };
    else if (oid === '2.5.29.28') found = { ...found, scope: issuingPointOf(wholeElement(value)) };
    else if (critical) found = { ...found, unusable: `It has a critical extension that is not known here (${oid}).` };
  }
  return found.deltaOf !== null && found.number === null && found.unusable === null
    ? { ...found, unusable: 'It tells only what has changed since another CRL, and has no number of its own.' }
    : found;
}
