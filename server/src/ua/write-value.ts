import { AttributeIds, DataValue, LocalizedText } from 'node-opcua-client';
import type { ClientSession } from 'node-opcua-client';
import { EnumValueType, Range } from 'node-opcua-types';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import type { TypedElement, TypedNode } from '@loyal-hinge/core';
import { accessLevelBits, bitNames } from '@loyal-hinge/core';
import type { Limited } from './monitored-item.js';
import { readValue } from './read-value.js';
import type { ReadValue } from './read-value.js';
import { readTogether } from './read-together.js';

/** A value as it goes over the wire. */
export type WireValue = Variant;

/** In words, as it is read. */
export const saidValue = (value: WireValue): string | null => readValue(new DataValue({ value })).value;

/** A node before it is written: its value as it came, and what a new one is held to. */
export interface NodeToWrite extends TypedNode {
  readonly now: ReadValue;
  readonly userAccessLevel: readonly string[];
  /** What is written back to undo. */
  readonly value: Variant;
}

/** Properties that say what a value may be (Part 8 §5.3.2.3, Part 3 §5.8.3). */
const properties = ['EURange', 'EnumStrings', 'EnumValues'] as const;
const mostNames = 500;

/** Reads a node with all that a value to be written is held to. */
export async function readToWrite(
  session: ClientSession,
  nodeId: string,
  propertyIds: ReadonlyMap<string, string>,
  limited: Limited,
): Promise<NodeToWrite> {
  const known = properties.filter((name) => propertyIds.has(name));
  const [value, access, ...told] = await readTogether(
    session,
    [
      { nodeId, attributeId: AttributeIds.Value },
      { nodeId, attributeId: AttributeIds.UserAccessLevel },
      ...known.map((name) => ({ nodeId: propertyIds.get(name) ?? '', attributeId: AttributeIds.Value })),
    ],
    limited,
  );
  const propertyOf = (name: (typeof properties)[number]): unknown => {
    const property = told[known.indexOf(name)];
    return property?.statusCode.isGood() ? (property.value.value as unknown) : null;
  };
  const range = propertyOf('EURange');
  const bits: unknown = access?.value.value;
  const variant = value?.value ?? new Variant();
  return {
    now: readValue(value),
    value: variant,
    dataType: DataType[variant.dataType],
    isArray: variant.arrayType !== VariantArrayType.Scalar,
    range: range instanceof Range && range.low < range.high ? { low: range.low, high: range.high } : null,
    names: namesIn(propertyOf('EnumStrings'), propertyOf('EnumValues')),
    userAccessLevel: typeof bits === 'number' ? bitNames(bits, accessLevelBits) : [],
  };
}

function namesIn(strings: unknown, values: unknown): ReadonlyMap<number, string> | null {
  if (Array.isArray(values) && values.length > 0)
    return new Map(
      values
        .slice(0, mostNames)
        .flatMap((one: unknown) =>
          one instanceof EnumValueType ? [[Number(one.value[1]), one.displayName.text ?? ''] as const] : [],
        ),
    );
  if (Array.isArray(strings) && strings.length > 0)
    return new Map(
      strings
        .slice(0, mostNames)
        .map((one: unknown, index) => [index, one instanceof LocalizedText ? (one.text ?? '') : String(one)] as const),
    );
  return null;
}

/** A value as it is typed: a list has an element a line, an enumeration its names. */
export function shownToType({ value, isArray, names }: NodeToWrite): string | null {
  const whole: unknown = value.value;
  if (whole === null || whole === undefined) return null;
  const one = (element: unknown): string => {
    const text =
      readValue(
        new DataValue({
          value: new Variant({ dataType: value.dataType, arrayType: VariantArrayType.Scalar, value: element }),
        }),
      ).value ?? '';
    return names?.get(Number(text)) ?? text;
  };
  return isArray
    ? Array.from(whole as ArrayLike<unknown>)
        .map(one)
        .join('\n')
    : one(whole);
}

/** Elements that somebody typed, as a value of the node’s type. */
export function variantOf({ dataType, isArray }: TypedNode, elements: readonly TypedElement[]): Variant {
  const type = DataType[dataType as keyof typeof DataType];
  const wire = elements.map((element) => onWire(type, element));
  return isArray
    ? new Variant({ dataType: type, arrayType: VariantArrayType.Array, value: wire })
    : new Variant({ dataType: type, arrayType: VariantArrayType.Scalar, value: wire[0] });
}

/** As the library has them: 64 bits as two halves. */
function onWire(type: DataType, element: TypedElement): unknown {
  if (type === DataType.LocalizedText) return new LocalizedText({ text: String(element) });
  if (typeof element !== 'bigint') return element;
  if (type !== DataType.Int64 && type !== DataType.UInt64) return Number(element);
  const bits = BigInt.asUintN(64, element);
  return [Number(bits >> 32n), Number(bits & 0xffff_ffffn)];
}

/** Writes a value alone, without status and timestamps (Part 4 §5.11.4). @returns the code that the server answered */
export async function writeVariant(
  session: ClientSession,
  nodeId: string,
  value: Variant,
  limited: Limited,
): Promise<string> {
  const status = await limited(
    session.write({ nodeId, attributeId: AttributeIds.Value, value: new DataValue({ value }) }),
  );
  return status.name;
}
