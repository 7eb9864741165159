import {
  DerFault,
  bitStringOf,
  booleanOf,
  contentOf,
  contextTag,
  derTag,
  expectTag,
  hexOf,
  integerBytes,
  objectIdentifierOf,
  partsOf,
  smallInteger,
  wholeElement,
} from './der.js';
import type { DerElement } from './der.js';
import { distributionPointsOf } from './distribution-points.js';
import type { DistributionPoint } from './distribution-points.js';
import { generalNameOf } from './general-name.js';
import type { GeneralName } from './general-name.js';

export interface PolicyConstraints {
  readonly requireExplicitPolicy: number | null;
  readonly inhibitPolicyMapping: number | null;
}

/** The extensions of a certificate that matter here, each null where it is not there (RFC 5280 §4.2). */
export interface CertificateExtensions {
  readonly basicConstraints: {
    readonly isAuthority: boolean;
    readonly pathLength: number | null;
    readonly critical: boolean;
  } | null;
  readonly keyUsages: readonly KeyUsage[] | null;
  /** Key usage or extended key usage is marked critical: whoever validates must keep to it. */
  readonly usageIsBinding: boolean;
  readonly extendedKeyUsages: readonly string[] | null;
  readonly alternativeNames: readonly GeneralName[] | null;
  readonly subjectKeyId: string | null;
  readonly authorityKeyId: string | null;
  readonly nameConstraints: NameConstraints | null;
  /** Where CRLs that speak of it may be. */
  readonly distributionPoints: readonly DistributionPoint[] | null;
  readonly policies: readonly string[] | null;
  readonly policyMappings: readonly (readonly [string, string])[] | null;
  readonly policyConstraints: PolicyConstraints | null;
  readonly inhibitAnyPolicy: number | null;
  /** Those that are marked critical and are not known here. */
  readonly unknownCritical: readonly string[];
  /** All that are there, in their order. */
  readonly present: readonly string[];
}

export interface NameConstraints {
  readonly permitted: readonly GeneralName[];
  readonly excluded: readonly GeneralName[];
}

/** Bits of key usage in their order (RFC 5280 §4.2.1.3). */
export const keyUsageNames = [
  'digitalSignature',
  'nonRepudiation',
  'keyEncipherment',
  'dataEncipherment',
  'keyAgreement',
  'keyCertSign',
  'cRLSign',
  'encipherOnly',
  'decipherOnly',
] as const;
export type KeyUsage = (typeof keyUsageNames)[number];

type Extension = { -readonly [Key in keyof CertificateExtensions]: CertificateExtensions[Key] };

/** A certificate without any. */
export const noExtensions: CertificateExtensions = {
  basicConstraints: null,
  keyUsages: null,
  usageIsBinding: false,
  extendedKeyUsages: null,
  alternativeNames: null,
  subjectKeyId: null,
  authorityKeyId: null,
  nameConstraints: null,
  distributionPoints: null,
  policies: null,
  policyMappings: null,
  policyConstraints: null,
  inhibitAnyPolicy: null,
  unknownCritical: [],
  present: [],
};

/** `[3] EXPLICIT SEQUENCE OF Extension`, or nothing at all. */
export function certificateExtensionsOf(element: DerElement | undefined): CertificateExtensions {
  if (!element) return noExtensions;
  const found: Extension = { ...noExtensions };
  const present: string[] = [];
  const unknownCritical: string[] = [];
  for (const { oid, critical, value } of extensionsIn(element)) {
    if (present.includes(oid)) throw new DerFault(`the extension ${oid} appears twice`);
    present.push(oid);
    const read = readers[oid];
    if (read) read(wholeElement(value), found, critical);
    else if (critical && !knownToMatterNot.has(oid)) unknownCritical.push(oid);
  }
  return { ...found, present, unknownCritical };
}

export interface RawExtension {
  readonly oid: string;
  readonly critical: boolean;
  readonly value: Uint8Array;
}

export function extensionsIn(explicit: DerElement): readonly RawExtension[] {
  const [list] = partsOf(explicit);
  return partsOf(expectTag(list, derTag.sequence)).map((extension) => {
    const parts = partsOf(expectTag(extension, derTag.sequence));
    const critical = parts[1]?.tag === derTag.boolean ? booleanOf(parts[1]) : false;
    const value = parts[1]?.tag === derTag.boolean ? parts[2] : parts[1];
    return {
      oid: objectIdentifierOf(expectTag(parts[0], derTag.objectIdentifier)),
      critical,
      value: contentOf(expectTag(value, derTag.octetString)),
    };
  });
}

/** Extensions that inform and bind nobody who validates a path: marked critical, too, there is nothing to be done. */
const knownToMatterNot = new Set([
  '2.5.29.9', // attributes of the subject (RFC 5280 §4.2.1.8)
  '2.5.29.16', // when the key may sign; binds its holder (X.509 §9.2.2.5)
  '2.5.29.18', // other names of the issuer (§4.2.1.7)
  '2.5.29.46', // where to find the newest delta CRL (§4.2.1.15)
  '1.3.6.1.5.5.7.1.1', // where to find the issuer (§4.2.2.1)
  '1.3.6.1.5.5.7.1.3', // statements about qualified certificates (RFC 3739 §3.2.6)
  '1.3.6.1.5.5.7.1.11', // services of the subject (§4.2.2.2)
  '1.3.6.1.5.5.7.1.24', // what TLS demands of its holder (RFC 7633 §4)
  '1.3.6.1.5.5.7.48.1.5', // nobody asks whether this answerer was revoked (RFC 6960 §4.2.2.2.1)
]);

const knownUsages = new Map<number, readonly KeyUsage[]>();

/** The usages whose bits are set, the first one being the highest of sixteen. */
function keyUsagesIn(bits: number): readonly KeyUsage[] {
  const known = knownUsages.get(bits);
  if (known) return known;
  const usages = keyUsageNames.filter((_, bit) => ((bits >> (15 - bit)) & 1) === 1);
  knownUsages.set(bits, usages);
  return usages;
}

type Reader = (element: DerElement, found: Extension, critical: boolean) => void;

const sequence = (element: DerElement): readonly DerElement[] => partsOf(expectTag(element, derTag.sequence));

const readers: Readonly<Record<string, Reader>> = {
  '2.5.29.19': (element, found, critical) => {
    const parts = sequence(element);
    const isAuthority = parts[0]?.tag === derTag.boolean ? booleanOf(parts[0]) : false;
    const length = parts.find((part) => part.tag === derTag.integer);
    found.basicConstraints = { isAuthority, pathLength: length ? smallInteger(length) : null, critical };
  },
  '2.5.29.15': (element, found, critical) => {
    const { bytes } = bitStringOf(element);
    found.usageIsBinding ||= critical;
    found.keyUsages = keyUsagesIn(((bytes[0] ?? 0) << 8) | ((bytes[1] ?? 0) & 0x80));
  },
  '2.5.29.37': (element, found, critical) => {
    found.usageIsBinding ||= critical;
    found.extendedKeyUsages = sequence(element).map(objectIdentifierOf);
  },
  '2.5.29.17': (element, found) => {
    found.alternativeNames = sequence(element).map(generalNameOf);
  },
  '2.5.29.14': (element, found) => {
    found.subjectKeyId = hexOf(contentOf(expectTag(element, derTag.octetString)));
  },
  '2.5.29.35': (element, found) => {
    const keyId = sequence(element).find((part) => part.tag === contextTag(0, false));
    found.authorityKeyId = keyId ? hexOf(contentOf(keyId)) : null;
  },
  '2.5.29.30': (element, found) => {
    const parts = sequence(element);
    found.nameConstraints = { permitted: subtrees(parts, contextTag(0)), excluded: subtrees(parts, contextTag(1)) };
  },
  '2.5.29.31': (element, found) => {
    found.distributionPoints = distributionPointsOf(element);
  },
  '2.5.29.32': (element, found) => {
    found.policies = sequence(element).map((information) => {
      const [policy] = sequence(information);
      return objectIdentifierOf(expectTag(policy, derTag.objectIdentifier));
    });
  },
  '2.5.29.33': (element, found) => {
    found.policyMappings = sequence(element).map((mapping) => {
      const [from, to] = sequence(mapping);
      return [
        objectIdentifierOf(expectTag(from, derTag.objectIdentifier)),
        objectIdentifierOf(expectTag(to, derTag.objectIdentifier)),
      ] as const;
    });
  },
  '2.5.29.36': (element, found) => {
    const parts = sequence(element);
    const skip = (number: number): number | null => {
      const part = parts.find(({ tag }) => tag === contextTag(number, false));
      return part ? smallInteger(part, part.tag) : null;
    };
    found.policyConstraints = { requireExplicitPolicy: skip(0), inhibitPolicyMapping: skip(1) };
  },
  '2.5.29.54': (element, found) => {
    integerBytes(element);
    found.inhibitAnyPolicy = smallInteger(element);
  },
};

/** GeneralSubtrees: bases only; RFC 5280 §4.2.1.10 leaves the distances at 0 and absent. */
function subtrees(parts: readonly DerElement[], tag: number): readonly GeneralName[] {
  const list = parts.find((part) => part.tag === tag);
  return list
    ? partsOf(list).map((subtree) => {
        const [base, ...distances] = sequence(subtree);
        if (!base) throw new DerFault('a name constraint is empty');
        if (distances.some((part) => part.tag !== contextTag(0, false) || smallInteger(part, part.tag) !== 0))
          throw new DerFault('a name constraint has distances, which no certificate of today may have');
        return generalNameOf(base);
      })
    : [];
}
