import { DataType, VariantArrayType } from 'node-opcua-variant';
import type { Variant } from 'node-opcua-variant';
import type { BenchShape } from '@loyal-hinge/contract';
import { longestText, textOf } from './read-value.js';

const mostElements = 500;
const mostFields = 200;

/** How a value is shown: a switch, a name of an enumeration, a list, a structure by its fields, or as it is. */
export function shapeOf(value: Variant, names: ReadonlyMap<number, string> | null): BenchShape {
  const whole: unknown = value.value;
  if (whole === null || whole === undefined) return { kind: 'plain' };
  if (value.arrayType !== VariantArrayType.Scalar) {
    const all = Array.from(whole as ArrayLike<unknown>);
    const elements = all.slice(0, mostElements).map((one) => named(one, value.dataType, names));
    return { kind: 'list', count: all.length, elements };
  }
  if (value.dataType === DataType.Boolean) return { kind: 'switch', isOn: whole === true };
  if (value.dataType === DataType.ExtensionObject) return { kind: 'structure', fields: fieldsOf(whole) };
  const name = typeof whole === 'number' ? names?.get(whole) : undefined;
  return name === undefined ? { kind: 'plain' } : { kind: 'named', name };
}

const named = (one: unknown, dataType: DataType, names: ReadonlyMap<number, string> | null): string =>
  (typeof one === 'number' ? names?.get(one) : undefined) ?? textOf(one, dataType);

/** As the structure’s own description names them. */
function fieldsOf(structure: unknown): { name: string; value: string }[] {
  const told: unknown = JSON.parse(JSON.stringify(structure));
  return Object.entries(Object(told) as Record<string, unknown>)
    .slice(0, mostFields)
    .map(([name, field]) => ({
      name,
      value: (typeof field === 'string' ? field : JSON.stringify(field)).slice(0, longestText),
    }));
}
