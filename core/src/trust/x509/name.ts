import {
  contentOf,
  derTag,
  elementAt,
  encodingOf,
  expectTag,
  hexOf,
  latinText,
  objectIdentifierOf,
  partsOf,
  sameEncoding,
  textOf,
} from './der.js';
import type { DerElement } from './der.js';

/** Names of issuers by their encoding: most certificates share theirs with many others. */
const issuerNames = new Map<string, DistinguishedName>();
const mostIssuerNames = 2000;

/** A distinguished name (RFC 5280 §4.1.2.4), read when it is first looked at. */
export class DistinguishedName {
  private keyRead: string | null = null;
  private textRead: string | null = null;

  constructor(private readonly element: DerElement) {}

  /** The name of an issuer: names of the same encoding are one and the same object, as long as there are not too many. */
  static ofIssuer(element: DerElement): DistinguishedName {
    const encoded = latinText(encodingOf(element));
    const known = issuerNames.get(encoded);
    if (known) return known;
    const name = new DistinguishedName(element).check();
    if (issuerNames.size >= mostIssuerNames) issuerNames.clear();
    issuerNames.set(encoded, name);
    return name;
  }

  /** Equal for names that RFC 5280 §7.1 takes as equal: without regard to case, string type and runs of blanks. */
  get key(): string {
    return (this.keyRead ??= relativeNames(this.element).map(relativeKey).join(','));
  }

  /** The key of one relative name, whatever its own tag is. */
  static keyOfRelative(relative: DerElement): string {
    return relativeKey(attributesIn(relative));
  }

  /** True for names that RFC 5280 §7.1 takes as equal; most that differ are told apart at their first difference. */
  equals(other: DistinguishedName): boolean {
    if (this.isEncodedAs(other)) return true;
    if (this.isEmpty || other.isEmpty) return false;
    return startsAlike(this.element, other.element) && this.key === other.key;
  }

  /** True where both stand there byte by byte alike: names of one issuer mostly do. */
  isEncodedAs(other: DistinguishedName): boolean {
    return this === other || sameEncoding(this.element, other.element);
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

const relativeNames = (name: DerElement): readonly (readonly Attribute[])[] =>
  partsOf(expectTag(name, derTag.sequence)).map((relative) => attributesIn(expectTag(relative, derTag.set)));

const attributesIn = (relative: DerElement): readonly Attribute[] =>
  partsOf(relative).map((attribute) => {
    const [type, value] = partsOf(expectTag(attribute, derTag.sequence));
    return { type: objectIdentifierOf(expectTag(type, derTag.objectIdentifier)), value: present(value) };
  });

const relativeKey = (attributes: readonly Attribute[]): string =>
  attributes
    .map(({ type, value }) => `${type}=${comparable(value)}`)
    .sort()
    .join('+');

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

/** False where two names differ at a glance: in the type of their first attribute, or in the letter that it begins with. */
function startsAlike(left: DerElement, right: DerElement): boolean {
  const [one, other] = [onlyAttribute(left), onlyAttribute(right)];
  if (!one || !other) return true;
  const [oneType, otherType] = [firstOf(one), firstOf(other)];
  if (!sameEncoding(oneType, otherType)) return false;
  const oneLetter = firstLetter(elementAt(one.source, oneType.to, one.to));
  const otherLetter = firstLetter(elementAt(other.source, otherType.to, other.to));
  return oneLetter === null || otherLetter === null || oneLetter === otherLetter;
}

const firstOf = ({ source, from, to }: DerElement): DerElement => elementAt(source, from, to);

/** The attribute of the first relative name; null where it has several. */
function onlyAttribute(name: DerElement): DerElement | null {
  const relative = firstOf(name);
  const attribute = firstOf(relative);
  return attribute.to === relative.to ? attribute : null;
}

const ofOneByteALetter: readonly number[] = [
  derTag.utf8String,
  derTag.printableString,
  derTag.teletexString,
  derTag.ia5String,
];

/** The letter from a to z with which a text begins, without regard to case; null where it begins with anything else. */
function firstLetter({ tag, source, from, to }: DerElement): number | null {
  if (from === to || !ofOneByteALetter.includes(tag)) return null;
  const letter = (source[from] ?? 0) | 0x20;
  return letter >= 0x61 && letter <= 0x7a ? letter : null;
}

/** Folded as RFC 5280 §7.1 says; the separators of keys are kept out of values. */
const comparable = (value: DerElement): string =>
  encodeURIComponent(stringOf(value).normalize('NFKC').toLowerCase().trim().replace(/\s+/g, ' '));

/**
 * As RFC 4514 §2.4 says; what breaks a line, steers a terminal or turns the order of letters around stands as the
 * hexadecimal of its octets.
 */
const escaped = (text: string): string =>
  text
    .replace(/[\\,+"<>;]/g, (letter) => `\\${letter}`)
    .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]/gu, (letter) =>
      [...new TextEncoder().encode(letter)]
        .map((octet) => `\\${octet.toString(16).padStart(2, '0').toUpperCase()}`)
        .join(''),
    );
