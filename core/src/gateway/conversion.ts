/** Types to which a relay converts (Part 6 §5.1.2). */
export const relayTypes = [
  'Boolean',
  'SByte',
  'Byte',
  'Int16',
  'UInt16',
  'Int32',
  'UInt32',
  'Float',
  'Double',
  'String',
] as const;
export type RelayType = (typeof relayTypes)[number];

const whole: Readonly<Partial<Record<RelayType, readonly [least: number, most: number]>>> = {
  SByte: [-128, 127],
  Byte: [0, 255],
  Int16: [-32_768, 32_767],
  UInt16: [0, 65_535],
  Int32: [-2_147_483_648, 2_147_483_647],
  UInt32: [0, 4_294_967_295],
};
const mostFloat = 3.402_823_466_385_288_6e38;

export type Converted =
  { readonly ok: true; readonly value: unknown; readonly type: string } | { readonly ok: false; readonly says: string };

/**
 * A value as one of another type. Numbers are rounded to whole ones where only such fit (half to even), and refused where they lie
 * outside; nothing is cut off.
 * @param as null: as it is
 * @param type of the value as it came; null: not known, a number is then a Double
 */
export function convertTo(as: RelayType | null, value: unknown, type: string | null): Converted {
  const own = type ?? ownType(value);
  if (as === null || as === own) return { ok: true, value, type: own };
  const refuse = (says: string): Converted => ({ ok: false, says });
  if (as === 'String') {
    const text = textOf(value);
    return text === null ? refuse(`A ${own} can’t be written as text.`) : { ok: true, value: text, type: as };
  }
  const number = numberIn(value);
  if (number === null) return refuse(`“${String(textOf(value) ?? own)}” is no number.`);
  if (as === 'Boolean') {
    if (number !== 0 && number !== 1) return refuse(`${number} is neither 0 nor 1: it can’t be a Boolean.`);
    return { ok: true, value: number === 1, type: as };
  }
  if (as === 'Double') return { ok: true, value: number, type: as };
  if (as === 'Float')
    return Number.isFinite(number) && Math.abs(number) > mostFloat
      ? refuse(`${number} is too large for a Float.`)
      : { ok: true, value: Math.fround(number), type: as };
  const [least, most] = whole[as] ?? [0, 0];
  const rounded = roundedHalfToEven(number);
  return !Number.isFinite(number) || rounded < least || rounded > most
    ? refuse(`${number} does not fit into ${as}, which goes from ${least} to ${most}.`)
    : { ok: true, value: rounded, type: as };
}

/** A number as it stands in a value; null: it is none. Texts are numbers where they are nothing else. */
export function numberIn(value: unknown): number | null {
  if (typeof value === 'number') return Number.isNaN(value) ? null : value;
  if (typeof value === 'boolean') return value ? 1 : 0;
  if (typeof value === 'bigint') return Number(value);
  if (typeof value !== 'string' || !/^\s*[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?\s*$/i.test(value)) return null;
  const read = Number(value);
  return Number.isFinite(read) ? read : null;
}

function roundedHalfToEven(value: number): number {
  const below = Math.floor(value);
  const rest = value - below;
  const rounded = rest < 0.5 ? below : rest > 0.5 ? below + 1 : below % 2 === 0 ? below : below + 1;
  return rounded === 0 ? 0 : rounded;
}

function textOf(value: unknown): string | null {
  if (typeof value === 'string') return value;
  if (typeof value === 'number' || typeof value === 'boolean' || typeof value === 'bigint') return String(value);
  return value instanceof Date ? value.toISOString() : null;
}

const ownType = (value: unknown): string =>
  typeof value === 'boolean' ? 'Boolean' : typeof value === 'string' ? 'String' : 'Double';
