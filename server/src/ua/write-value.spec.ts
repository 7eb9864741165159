import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import { typedValue } from '@loyal-hinge/core';
import { saidValue, shownToType, variantOf } from './write-value.js';
import type { NodeToWrite } from './write-value.js';

const node = (value: Variant): NodeToWrite => ({
  now: {
    code: 'Good',
    value: null,
    number: null,
    dataType: DataType[value.dataType],
    sourceTimestamp: null,
    serverTimestamp: null,
  },
  value,
  dataType: DataType[value.dataType],
  isArray: value.arrayType !== VariantArrayType.Scalar,
  range: null,
  names: null,
  userAccessLevel: [],
});

describe('a value of 64 bits', () => {
  const whole = node(new Variant({ dataType: DataType.UInt64, arrayType: VariantArrayType.Scalar, value: [1, 7] }));
  const list = node(
    new Variant({
      dataType: DataType.Int64,
      arrayType: VariantArrayType.Array,
      value: [
        [0xffffffff, 0xffffffff],
        [0, 5],
      ],
    }),
  );

  it('is shown to be typed as it is, to the last digit', () => {
    expect(shownToType(whole)).toBe('4294967303');
    expect(shownToType(list)).toBe('-1\n5');
  });

  it('goes over the wire as it was typed', () => {
    const written = (typed: string, to: NodeToWrite) => {
      const read = typedValue(typed, to);
      if (!read.ok) throw new Error(read.says);
      return saidValue(variantOf(to, read.elements));
    };
    expect(written('18446744073709551615', whole)).toBe('18446744073709551615');
    expect(written('-9223372036854775808\n0', list)).toBe('-9223372036854775808, 0');
  });
});
