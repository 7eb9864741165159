import { DataValue } from 'node-opcua-client';
import { Range } from 'node-opcua-types';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import { readValue } from './read-value.js';
import { shapeOf } from './value-shape.js';

const one = (dataType: DataType, value: unknown) =>
  new Variant({ dataType, arrayType: VariantArrayType.Scalar, value });
const many = (dataType: DataType, value: unknown) =>
  new Variant({ dataType, arrayType: VariantArrayType.Array, value });
const names = new Map([
  [0, 'Stopped'],
  [1, 'Running'],
]);

describe('a value', () => {
  it('is shown as a switch, by its name, as a list or by its fields', () => {
    expect(shapeOf(one(DataType.Boolean, true), null)).toEqual({ kind: 'switch', isOn: true });
    expect(shapeOf(one(DataType.Int32, 1), names)).toEqual({ kind: 'named', name: 'Running' });
    expect(shapeOf(one(DataType.Int32, 7), names)).toEqual({ kind: 'plain' });
    expect(shapeOf(one(DataType.Double, 1.5), null)).toEqual({ kind: 'plain' });
    expect(shapeOf(many(DataType.Int32, [0, 1, 7]), names)).toEqual({
      kind: 'list',
      count: 3,
      elements: ['Stopped', 'Running', '7'],
    });
    expect(shapeOf(one(DataType.ExtensionObject, new Range({ low: 1, high: 2 })), null)).toEqual({
      kind: 'structure',
      fields: [
        { name: 'low', value: '1' },
        { name: 'high', value: '2' },
      ],
    });
  });

  it('that is empty, or very long, stays small', () => {
    expect(shapeOf(new Variant(), null)).toEqual({ kind: 'plain' });
    const long = shapeOf(many(DataType.Double, new Float64Array(10_000)), null);
    expect(long.kind === 'list' && [long.count, long.elements.length]).toEqual([10_000, 500]);
  });

  it('of 64 bits is one number, not two halves', () => {
    const read = (dataType: DataType, value: unknown) => readValue(new DataValue({ value: one(dataType, value) }));
    expect(read(DataType.UInt64, [0, 1234])).toMatchObject({ value: '1234', number: 1234 });
    expect(read(DataType.UInt64, [1, 0])).toMatchObject({ value: '4294967296' });
    expect(read(DataType.Int64, [0xffffffff, 0xffffffff])).toMatchObject({ value: '-1', number: -1 });
    const list = many(DataType.UInt64, [
      [0, 5],
      [0, 6],
    ]);
    expect(readValue(new DataValue({ value: list })).value).toBe('5, 6');
    expect(shapeOf(list, null)).toMatchObject({ elements: ['5', '6'] });
  });
});
