import { DerFault, bitStringOf, booleanOf, contentOf, contextTag, derTag, expectTag, hexOf, partsOf } from './der.js';
import type { DerElement } from './der.js';
import { generalNameOf } from './general-name.js';
import type { GeneralName } from './general-name.js';
import { DistinguishedName } from './name.js';

/** Reasons for a revocation as bits in the order of ReasonFlags (RFC 5280 §4.2.1.13): bit 1 is keyCompromise. */
export type ReasonMask = number;
export const allReasons: ReasonMask = 0b1_1111_1110;

export const reasonFlagNames = [
  'unused',
  'keyCompromise',
  'cACompromise',
  'affiliationChanged',
  'superseded',
  'cessationOfOperation',
  'certificateHold',
  'privilegeWithdrawn',
  'aACompromise',
] as const;

/**
 * What a DistributionPointName says (RFC 5280 §4.2.1.13): names as keys that are equal for equal names, or a relative name
 * that goes on from the name of whoever issues the CRL.
 */
export interface PointName {
  readonly keys: readonly string[];
  readonly relative: string | null;
}

/** A DistributionPoint of a certificate: where a CRL that speaks of it may be, for which reasons, and by whom. */
export interface DistributionPoint {
  readonly name: PointName | null;
  /** null: all of them. */
  readonly reasons: ReasonMask | null;
  /** Keys of the names of whoever issues the CRL; null: the certificate’s issuer. */
  readonly issuers: readonly string[] | null;
}

export const directoryKey = (name: string): string => `directory ${name}`;

/** CRLDistributionPoints (RFC 5280 §4.2.1.13). */
export function distributionPointsOf(element: DerElement): readonly DistributionPoint[] {
  return partsOf(expectTag(element, derTag.sequence)).map((point) => {
    const parts = partsOf(expectTag(point, derTag.sequence));
    const name = parts.find(({ tag }) => tag === contextTag(0));
    const reasons = parts.find(({ tag }) => tag === contextTag(1, false));
    const issuers = parts.find(({ tag }) => tag === contextTag(2));
    return {
      name: name ? pointNameOf(name) : null,
      reasons: reasons ? reasonsOf(reasons) : null,
      issuers: issuers ? partsOf(issuers).map((one) => keyOf(generalNameOf(one))) : null,
    };
  });
}

/** `[0] DistributionPointName`: a choice, so the tag around it is explicit. */
export function pointNameOf(explicit: DerElement): PointName {
  const [choice] = partsOf(explicit);
  if (choice?.tag === contextTag(0))
    return { keys: partsOf(choice).map((one) => keyOf(generalNameOf(one))), relative: null };
  if (choice?.tag === contextTag(1)) return { keys: [], relative: DistinguishedName.keyOfRelative(choice) };
  throw new DerFault('the name of a distribution point is of no known kind');
}

/** `[n] ReasonFlags`. */
export function reasonsOf(element: DerElement): ReasonMask {
  const { bytes } = bitStringOf({ ...element, tag: derTag.bitString });
  const bits = ((bytes[0] ?? 0) << 8) | (bytes[1] ?? 0);
  return reasonFlagNames.reduce((mask, _, bit) => mask | (((bits >> (15 - bit)) & 1) << bit), 0) & allReasons;
}

/** The keys that a name stands for, with whoever issues the CRL. */
export const keysOf = ({ keys, relative }: PointName, issuer: DistinguishedName): readonly string[] =>
  relative === null ? keys : [directoryKey(issuer.isEmpty ? relative : `${issuer.key},${relative}`)];

function keyOf(name: GeneralName): string {
  switch (name.kind) {
    case 'directory':
      return directoryKey(name.name.key);
    case 'ip':
      return `ip ${hexOf(name.bytes)}`;
    case 'dns':
    case 'email':
      return `${name.kind} ${name.value.toLowerCase()}`;
    default:
      return `${name.kind} ${name.value}`;
  }
}

/** `[0]` to `[5]` of IssuingDistributionPoint (RFC 5280 §5.2.5). */
export interface IssuingPoint {
  readonly name: PointName | null;
  readonly certificates: 'all' | 'authorities' | 'others' | 'attributes';
  /** null: all of them. */
  readonly reasons: ReasonMask | null;
  /** It speaks for other issuers, too. */
  readonly isIndirect: boolean;
  /** Equal for CRLs of one and the same scope. */
  readonly key: string;
}

export const wholeScope: IssuingPoint = {
  name: null,
  certificates: 'all',
  reasons: null,
  isIndirect: false,
  key: '',
};

export function issuingPointOf(element: DerElement): IssuingPoint {
  const parts = partsOf(expectTag(element, derTag.sequence));
  const part = (number: number, constructed: boolean): DerElement | undefined =>
    parts.find(({ tag }) => tag === contextTag(number, constructed));
  const flag = (number: number): boolean => {
    const found = part(number, false);
    return found ? booleanOf(found) : false;
  };
  const [name, reasons] = [part(0, true), part(3, false)];
  const kinds = (['others', 'authorities', 'attributes'] as const).filter(
    (_, index) => [flag(1), flag(2), flag(5)][index],
  );
  if (kinds.length > 1) throw new DerFault('it says of several kinds of certificates that it speaks of each alone');
  return {
    name: name ? pointNameOf(name) : null,
    certificates: kinds[0] ?? 'all',
    reasons: reasons ? reasonsOf(reasons) : null,
    isIndirect: flag(4),
    key: parts.length === 0 ? '' : hexOf(contentOf(element)),
  };
}
