import {
  contentOf,
  derTag,
  encodingOf,
  expectTag,
  hexOf,
  latinText,
  objectIdentifierOf,
  partsOf,
  sameBytes,
  textOf,
} from './der.js';
import type { DerElement } from './der.js';

/** A distinguished name (RFC 5280 §4.1.2.4), read when it is first looked at. */
export class DistinguishedName {
  private keyRead: string | null = null;
  private rawRead: string | null = null;
  private textRead: string | null = null;

  constructor(private readonly element: DerElement) {}

  /** The encoding as a text of one letter a byte: equal encodings give equal texts. */
  get raw(): string {
    return (this.rawRead ??= latinText(encodingOf(this.element)));
  }

  /** Equal for names that RFC 5280 §7.1 takes as equal: without regard to case, string type and runs of blanks. */
  get key(): string {
    return (this.keyRead ??= relativeNames(this.element)
      .map((attributes) =>
        attributes
          .map(({ type, value }) => `${type}=${comparable(value)}`)
          .sort()
          .join('+'),
      )
      .join(','));
  }

  /** True for names that RFC 5280 §7.1 takes as equal; most that differ are told apart at their first difference. */
  equals(other: DistinguishedName): boolean {
    if (sameBytes(encodingOf(this.element), encodingOf(other.element))) return true;
    const ours = partsOf(this.element);
    const theirs = partsOf(other.element);
    if (ours.length !== theirs.length) return false;
    return ours.every((relative, index) => startsAlike(relative, theirs[index] ?? relative)) && this.key === other.key;
  }

  /** For reading by people, most significant part last as in RFC 4514, `CN=Furnace server, O=Works`. */
  get text(): string {
    return (this.textRead ??= relativeNames(this.element)
      .map((attributes) =>
        attributes.map(({ type, value }) => `${shortNames[type] ?? type}=${escaped(stringOf(value))}`).join('+'),
      )
      .join(', '));
  }

  get isEmpty(): boolean {
    return this.element.from === this.element.to;
  }

  /** The keys of the relative names, for comparing subtrees. */
  get relativeKeys(): readonly string[] {
    return this.isEmpty ? [] : this.key.split(',');
  }

  /** The values of one type of attribute, in their order. */
  valuesOf(type: string): readonly string[] {
    return relativeNames(this.element).flatMap((attributes) =>
      attributes.filter((attribute) => attribute.type === type).map(({ value }) => stringOf(value)),
    );
  }

  /** Reads all of it, so that a malformed name is found. */
  check(): this {
    relativeNames(this.element).forEach((attributes) => attributes.forEach(({ value }) => stringOf(value)));
    return this;
  }
}

export const nameAttribute = {
  commonName: '2.5.4.3',
  organization: '2.5.4.10',
  country: '2.5.4.6',
  emailAddress: '1.2.840.113549.1.9.1',
} as const;

const shortNames: Readonly<Record<string, string>> = {
  '2.5.4.3': 'CN',
  '2.5.4.4': 'SN',
  '2.5.4.5': 'serialNumber',
  '2.5.4.6': 'C',
  '2.5.4.7': 'L',
  '2.5.4.8': 'ST',
  '2.5.4.9': 'street',
  '2.5.4.10': 'O',
  '2.5.4.11': 'OU',
  '2.5.4.12': 'title',
  '2.5.4.42': 'GN',
  '2.5.4.46': 'dnQualifier',
  '0.9.2342.19200300.100.1.25': 'DC',
  '0.9.2342.19200300.100.1.1': 'UID',
  '1.2.840.113549.1.9.1': 'E',
};

interface Attribute {
  readonly type: string;
  readonly value: DerElement;
}

function relativeNames(name: DerElement): readonly (readonly Attribute[])[] {
  return partsOf(expectTag(name, derTag.sequence)).map((relative) =>
    partsOf(expectTag(relative, derTag.set)).map((attribute) => {
      const [type, value] = partsOf(expectTag(attribute, derTag.sequence));
      return { type: objectIdentifierOf(expectTag(type, derTag.objectIdentifier)), value: present(value) };
    }),
  );
}

const present = (value: DerElement | undefined): DerElement => value ?? expectTag(value, derTag.utf8String);

const stringTypes: readonly number[] = [
  derTag.utf8String,
  derTag.printableString,
  derTag.teletexString,
  derTag.ia5String,
  derTag.bmpString,
  derTag.universalString,
];

const stringOf = (value: DerElement): string =>
  stringTypes.includes(value.tag) ? textOf(value) : `#${hexOf(contentOf(value))}`;

/** False where two relative names of one attribute differ at a glance. */
function startsAlike(left: DerElement, right: DerElement): boolean {
  if (sameBytes(contentOf(left), contentOf(right))) return true;
  const [one, ...more] = partsOf(left);
  const [other, ...others] = partsOf(right);
  if (!one || !other || more.length > 0 || others.length > 0) return true;
  const [oneType, oneValue] = partsOf(one);
  const [otherType, otherValue] = partsOf(other);
  if (!oneType || !otherType || !oneValue || !otherValue) return true;
  return sameBytes(contentOf(oneType), contentOf(otherType)) && comparable(oneValue) === comparable(otherValue);
}

/** Folded as RFC 5280 §7.1 says; the separators of keys are kept out of values. */
const comparable = (value: DerElement): string =>
  encodeURIComponent(stringOf(value).normalize('NFKC').toLowerCase().trim().replace(/\s+/g, ' '));

const escaped = (text: string): string => text.replace(/[\\,+"<>;]/g, (letter) => `\\${letter}`);
