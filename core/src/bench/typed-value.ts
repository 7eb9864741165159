import { counted } from '../links/wording.js';

/** Built-in types of which a person can type a value (Part 6 §5.1.2). */
export const typableTypes = [
  'Boolean',
  'SByte',
  'Byte',
  'Int16',
  'UInt16',
  'Int32',
  'UInt32',
  'Int64',
  'UInt64',
  'Float',
  'Double',
  'String',
  'DateTime',
  'LocalizedText',
] as const;
export type TypableType = (typeof typableTypes)[number];

/** What is known of a node to which a value is to be written. */
export interface TypedNode {
  readonly dataType: string;
  /** The value is a list. */
  readonly isArray: boolean;
  /** EURange (Part 8 §5.3.2.3); null: it has none. */
  readonly range: { readonly low: number; readonly high: number } | null;
  /** Names of an enumeration, by number (Part 3 §8.14, §5.8.3); null: it is none. */
  readonly names: ReadonlyMap<number, string> | null;
}

/** One element as it is written: whole numbers are bigints, so that none of 64 bits loses a digit. */
export type TypedElement = boolean | number | bigint | string | Date;

export type TypedValue =
  { readonly ok: true; readonly elements: readonly TypedElement[] } | { readonly ok: false; readonly says: string };

const wholeTypes: Readonly<Partial<Record<TypableType, readonly [bigint, bigint]>>> = {
  SByte: [-128n, 127n],
  Byte: [0n, 255n],
  Int16: [-32_768n, 32_767n],
  UInt16: [0n, 65_535n],
  Int32: [-(2n ** 31n), 2n ** 31n - 1n],
  UInt32: [0n, 2n ** 32n - 1n],
  Int64: [-(2n ** 63n), 2n ** 63n - 1n],
  UInt64: [0n, 2n ** 64n - 1n],
};
const largestFloat = 3.402_823_466_385_288_6e38;
const mostElements = 1000;
const longestString = 4000;

/**
 * Reads what a person typed as a value of a node: its type, its range and its names are held. Lists have one element a line.
 */
export function typedValue(typed: string, node: TypedNode): TypedValue {
  const type = typableTypes.find((name) => name === node.dataType);
  if (!type) return fault(`Values of the type ${node.dataType} can’t be typed here.`);
  if (!node.isArray) return collected([elementOf(typed, type, node)]);
  const lines = typed === '' ? [] : typed.split('\n');
  if (lines.length > mostElements) return fault(`At most ${mostElements} elements can be typed here.`);
  return collected(
    lines.map((line, index) => {
      const element = elementOf(line, type, node);
      return typeof element === 'object' && 'says' in element
        ? { says: `Line ${index + 1}: ${element.says}` }
        : element;
    }),
  );
}

type Fault = { readonly says: string };
const fault = (says: string): TypedValue => ({ ok: false, says });
const isFault = (element: TypedElement | Fault): element is Fault =>
  typeof element === 'object' && !(element instanceof Date);

function collected(elements: readonly (TypedElement | Fault)[]): TypedValue {
  const first = elements.find(isFault);
  return first
    ? fault(first.says)
    : { ok: true, elements: elements.filter((one): one is TypedElement => !isFault(one)) };
}

function elementOf(typed: string, type: TypableType, node: TypedNode): TypedElement | Fault {
  const text = typed.trim();
  switch (type) {
    case 'String':
    case 'LocalizedText':
      return typed.length <= longestString
        ? typed
        : { says: `It has ${counted(typed.length, 'letter')}; ${longestString} can be typed here.` };
    case 'Boolean':
      return booleans[text.toLowerCase()] ?? { says: 'Type true or false.' };
    case 'DateTime':
      return momentOf(text);
    case 'Float':
    case 'Double':
      return inRange(numberOf(text, type), node);
    default:
      return wholeOf(text, type, node);
  }
}

const booleans: Readonly<Record<string, boolean>> = {
  true: true,
  on: true,
  '1': true,
  false: false,
  off: false,
  '0': false,
};

function momentOf(text: string): Date | Fault {
  const moment = /^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d{1,3})?)?Z$/.test(text) ? new Date(text) : null;
  return moment && Number.isFinite(moment.getTime())
    ? moment
    : { says: 'Type a moment in UTC, such as 2026-03-01T02:10:00Z.' };
}

function numberOf(text: string, type: 'Float' | 'Double'): number | Fault {
  // A comma would be read as nothing by some, and as thousands by others.
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(text))
    return { says: 'Type a number, with a point: such as 12.5.' };
  const value = Number(text);
  const isTooLarge = !Number.isFinite(value) || (type === 'Float' && Math.abs(value) > largestFloat);
  return isTooLarge ? { says: `It is too large for the type ${type}.` } : value;
}

function wholeOf(text: string, type: TypableType, node: TypedNode): bigint | Fault {
  const named = [...(node.names ?? [])].find(([, name]) => name.toLowerCase() === text.toLowerCase());
  if (named) return BigInt(named[0]);
  if (!/^[-+]?\d{1,20}$/.test(text))
    return { says: node.names ? `Type one of: ${[...node.names.values()].join(', ')}.` : 'Type a whole number.' };
  const value = BigInt(text.replace('+', ''));
  const [least, most] = wholeTypes[type] ?? [0n, 0n];
  if (value < least || value > most) return { says: `The type ${type} goes from ${least} to ${most}.` };
  if (node.names && !node.names.has(Number(value)))
    return { says: `Type one of: ${[...node.names.values()].join(', ')}.` };
  return inRange(value, node);
}

function inRange<Value extends number | bigint>(value: Value | Fault, { range }: TypedNode): Value | Fault {
  if (typeof value === 'object' || !range || (Number(value) >= range.low && Number(value) <= range.high)) return value;
  const [low, high] = [range.low, range.high].map((limit) => Number(limit.toPrecision(12)));
  return { says: `The server says that it goes from ${low} to ${high}.` };
}
