/** How a value lies in the registers of a device. None of this is fixed by Modbus: papers of devices say it, or nobody does. */
export const valueTypes = [
  'bool',
  'int16',
  'uint16',
  'int32',
  'uint32',
  'int64',
  'uint64',
  'float32',
  'float64',
  'bcd16',
  'bcd32',
  'text',
] as const;
export type ValueType = (typeof valueTypes)[number];

/** Which word of several comes first, and whether the two octets of each word are changed over. */
export const valueOrders = ['high-first', 'low-first', 'high-first-swapped', 'low-first-swapped'] as const;
export type ValueOrder = (typeof valueOrders)[number];

export const orderWords: Readonly<Record<ValueOrder, string>> = {
  'high-first': 'high word first',
  'low-first': 'low word first',
  'high-first-swapped': 'high word first, bytes swapped',
  'low-first-swapped': 'low word first, bytes swapped',
};

export const typeWords: Readonly<Record<ValueType, string>> = {
  bool: 'bool',
  int16: '16-bit integer',
  uint16: 'unsigned 16-bit integer',
  int32: '32-bit integer',
  uint32: 'unsigned 32-bit integer',
  int64: '64-bit integer',
  uint64: 'unsigned 64-bit integer',
  float32: 'float',
  float64: 'double',
  bcd16: '4-digit BCD',
  bcd32: '8-digit BCD',
  text: 'text',
};

/** A value’s form: `value = raw × scale + offset`, raw being what the words say by their type and order. */
export interface ValueForm {
  readonly type: ValueType;
  readonly order: ValueOrder;
  readonly scale: number;
  readonly offset: number;
  /** Of the raw integer these bits alone, counted from the lowest; of a bool in words the one bit. */
  readonly bits: BitRange | null;
  /** How many registers a text has. */
  readonly registers?: number | undefined;
}
export interface BitRange {
  readonly from: number;
  readonly count: number;
}

export type FieldValue = number | bigint | boolean | string;

const widths: Readonly<Record<ValueType, number>> = {
  bool: 1,
  int16: 1,
  uint16: 1,
  bcd16: 1,
  int32: 2,
  uint32: 2,
  float32: 2,
  bcd32: 2,
  int64: 4,
  uint64: 4,
  float64: 4,
  text: 1,
};
export const mostTextRegisters = 60;

/** How many words a value takes; a coil or a discrete input is one bit and counts as one. */
export const wordsOf = ({ type, registers }: Pick<ValueForm, 'type' | 'registers'>): number =>
  type === 'text' ? (registers ?? 1) : widths[type];

/** What words say before scale and offset. NaN: they are no such value (BCD with a digit above 9). */
export function rawValue(words: readonly number[], { type, order, bits }: ValueForm): FieldValue {
  if (type === 'text') return textIn(words, order);
  const view = viewOf(words, order);
  switch (type) {
    case 'bool':
      return (((words[0] ?? 0) >> (bits?.from ?? 0)) & 1) === 1;
    case 'int16':
      return cut(bits, view.getInt16(0));
    case 'uint16':
      return cut(bits, view.getUint16(0));
    case 'int32':
      return cut(bits, view.getInt32(0));
    case 'uint32':
      return cut(bits, view.getUint32(0));
    case 'int64':
      return cutLong(bits, view.getBigInt64(0));
    case 'uint64':
      return cutLong(bits, view.getBigUint64(0));
    case 'float32':
      return view.getFloat32(0);
    case 'float64':
      return view.getFloat64(0);
    case 'bcd16':
      return digitsIn(view.getUint16(0), 4);
    case 'bcd32':
      return digitsIn(view.getUint32(0), 8);
  }
}

/** What words say, with scale and offset. Whole numbers of 64 bits stay whole as long as neither changes them. */
export function fieldValue(words: readonly number[], form: ValueForm): FieldValue {
  const raw = rawValue(words, form);
  if (typeof raw !== 'number' && typeof raw !== 'bigint') return raw;
  if (form.scale === 1 && form.offset === 0) return raw;
  return Number(raw) * form.scale + form.offset;
}

/** The words that say a number by a form: what a device does. Bits other than those of the form are 0. */
export function wordsFor(value: FieldValue, { type, order, scale, offset, bits, registers }: ValueForm): number[] {
  if (type === 'text') return wordsOfText(String(value), order, registers ?? 1);
  if (type === 'bool') return [(value ? 1 : 0) << (bits?.from ?? 0)];
  const view = new DataView(new ArrayBuffer(widths[type] * 2));
  const isAsItIs = scale === 1 && offset === 0;
  const raw = isAsItIs ? Number(value) : (Number(value) - offset) / scale;
  const whole = Math.round(raw);
  const shifted = bits ? whole * 2 ** bits.from : whole;
  switch (type) {
    case 'int16':
    case 'uint16':
      view.setUint16(0, shifted);
      break;
    case 'int32':
    case 'uint32':
      view.setUint32(0, shifted);
      break;
    case 'int64':
    case 'uint64':
      view.setBigUint64(
        0,
        BigInt.asUintN(64, (typeof value === 'bigint' && isAsItIs ? value : BigInt(whole)) << BigInt(bits?.from ?? 0)),
      );
      break;
    case 'float32':
      view.setFloat32(0, raw);
      break;
    case 'float64':
      view.setFloat64(0, raw);
      break;
    case 'bcd16':
      view.setUint16(0, packDigits(whole, 4));
      break;
    case 'bcd32':
      view.setUint32(0, packDigits(whole, 8));
      break;
  }
  return arranged(
    Array.from({ length: widths[type] }, (_, index) => view.getUint16(index * 2)),
    order,
  );
}

/** The words in the order of the wire of one that says the high word and the high byte first, or the other way round. */
const arranged = (words: readonly number[], order: ValueOrder): number[] => {
  const turned = order.startsWith('low') ? [...words].reverse() : [...words];
  return order.endsWith('swapped') ? turned.map(swapped) : turned;
};

export const swapped = (word: number): number => ((word & 0xff) << 8) | ((word >> 8) & 0xff);

const scratch = new DataView(new ArrayBuffer(8));

/** The words, high first, in a place that the next call uses again. */
function viewOf(words: readonly number[], order: ValueOrder): DataView {
  const lowFirst = order.startsWith('low');
  const isSwapped = order.endsWith('swapped');
  const count = Math.min(4, words.length);
  for (let index = 0; index < count; index += 1) {
    const word = words[lowFirst ? count - 1 - index : index] ?? 0;
    scratch.setUint16(index * 2, isSwapped ? swapped(word) : word);
  }
  return scratch;
}

const cut = (bits: BitRange | null, whole: number): number =>
  bits ? Math.floor((whole >>> 0) / 2 ** bits.from) % 2 ** bits.count : whole;

const cutLong = (bits: BitRange | null, whole: bigint): bigint =>
  bits ? BigInt.asUintN(bits.count, BigInt.asUintN(64, whole) >> BigInt(bits.from)) : whole;

/** Each four bits are a digit; NaN where one is above 9. */
export function digitsIn(packed: number, count: number): number {
  let value = 0;
  for (let index = count - 1; index >= 0; index -= 1) {
    const digit = (packed >>> (index * 4)) & 0xf;
    if (digit > 9) return NaN;
    value = value * 10 + digit;
  }
  return value;
}

function packDigits(value: number, count: number): number {
  let packed = 0;
  for (const digit of String(Math.abs(value)).padStart(count, '0').slice(-count)) packed = packed * 16 + Number(digit);
  return packed;
}

/** Two letters a word, up to the first that is none. */
function textIn(words: readonly number[], order: ValueOrder): string {
  let text = '';
  for (const word of words)
    for (const code of order.endsWith('swapped') ? [word & 0xff, word >> 8] : [word >> 8, word & 0xff]) {
      if (code === 0) return text.trimEnd();
      text += code >= 0x20 && code < 0x7f ? String.fromCharCode(code) : '·';
    }
  return text.trimEnd();
}

function wordsOfText(text: string, order: ValueOrder, registers: number): number[] {
  const code = (at: number): number => text.charCodeAt(at) & 0xff || 0;
  return Array.from({ length: registers }, (_, index) => {
    const word = (code(index * 2) << 8) | code(index * 2 + 1);
    return order.endsWith('swapped') ? swapped(word) : word;
  });
}

/** A form in words: `float, low word first, × 0.1 + 4`. */
export function sayForm({ type, order, scale, offset, bits }: ValueForm): string {
  const parts: string[] = [typeWords[type]];
  const hasWords = widths[type] > 1;
  if (hasWords || (order.endsWith('swapped') && type !== 'bool'))
    parts.push(hasWords ? orderWords[order] : 'bytes swapped');
  if (bits) parts.push(bits.count === 1 ? `bit ${bits.from}` : `bits ${bits.from} to ${bits.from + bits.count - 1}`);
  const reckoned = `${scale === 1 ? '' : ` × ${scale}`}${offset === 0 ? '' : offset > 0 ? ` + ${offset}` : ` − ${-offset}`}`;
  return parts.join(', ') + reckoned;
}
