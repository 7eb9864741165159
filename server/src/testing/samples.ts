import * as z from 'zod';

/** The parts of a JSON schema that samples are made by. */
interface Schema {
  readonly const?: unknown;
  readonly enum?: readonly unknown[];
  readonly anyOf?: readonly Schema[];
  readonly oneOf?: readonly Schema[];
  readonly type?: string;
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly items?: Schema;
  readonly prefixItems?: readonly Schema[];
  readonly minItems?: number;
  readonly minLength?: number;
  readonly minimum?: number;
}

export type Known = Readonly<Record<string, string>>;

/** Texts that fit one or the other field: the first that its schema takes is used. */
const texts = [
  'a sample',
  '2031-05-04T10:00:00Z',
  '127.41.9.9',
  '127.41.9.0/30',
  'A'.repeat(40),
  'A'.repeat(64),
  'c2FtcGxl',
  'sample',
  'a long passphrase',
];

/** Bodies that a schema takes, one for each of its kinds. `known` gives values by the name of their field. */
export function samplesOf(schema: z.ZodType, known: Known): unknown[] {
  const json = z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any', reused: 'inline' }) as Schema;
  return samples(json, '', known);
}

function samples(schema: Schema, field: string, known: Known): unknown[] {
  if ('const' in schema) return [schema.const];
  if (schema.enum) return [schema.enum.find((value) => value === known[field]) ?? schema.enum[0]];
  const kinds = schema.anyOf ?? schema.oneOf;
  if (kinds) return kinds.flatMap((kind) => samples(kind, field, known));
  switch (schema.type) {
    case 'object':
      return objects(Object.entries(schema.properties ?? {}), known);
    case 'array':
      if (schema.prefixItems) return [schema.prefixItems.map((item) => samples(item, field, known)[0])];
      return [samples(schema.items ?? {}, field, known).slice(0, 1)];
    case 'string':
      return [known[field] ?? fitting(schema)];
    case 'integer':
    case 'number':
      return [Math.max(1, schema.minimum ?? 1)];
    case 'boolean':
      return [false];
    default:
      return [null];
  }
}

/** As many objects as the field with most kinds has; the others repeat their last. */
function objects(fields: readonly (readonly [string, Schema])[], known: Known): unknown[] {
  const columns = fields.map(([name, schema]) => [name, samples(schema, name, known)] as const);
  const most = Math.max(1, ...columns.map(([, values]) => values.length));
  return Array.from({ length: most }, (_, index) =>
    Object.fromEntries(columns.map(([name, values]) => [name, values[Math.min(index, values.length - 1)]])),
  );
}

function fitting(schema: Schema): string {
  const read = z.fromJSONSchema(schema as z.core.JSONSchema.JSONSchema);
  return texts.find((text) => read.safeParse(text).success) ?? 'x'.repeat(schema.minLength ?? 1);
}

/** What a field may be sent as by somebody who means no good, or who made a mistake. */
export const oddValues: readonly unknown[] = [
  undefined,
  null,
  '',
  ' ',
  '\u0000',
  'a\u0000b',
  '\ud800',
  'a\udfff\ud800b',
  'x'.repeat(5000),
  '../..',
  '%00',
  "'; drop table links; --",
  '__proto__',
  '\u202e\u200b',
  '-infinity',
  '0000-01-01T00:00:00Z',
  '9999-12-31T23:59:59.999999999Z',
  '2026-02-29T25:61:00Z',
  '999.999.999.999:99999',
  '0'.repeat(64),
  -1,
  0,
  1.5,
  2 ** 31,
  2 ** 53,
  1e308,
  true,
  [],
  {},
  ['a', null],
  { kind: 'none', toString: 1 },
];

/** The value with one field of it replaced, for every field at every depth. */
export function mutated(value: unknown, odd: unknown): unknown[] {
  if (Array.isArray(value))
    return [odd, ...value.flatMap((item, index) => mutated(item, odd).map((other) => value.with(index, other)))];
  if (typeof value !== 'object' || value === null) return [odd];
  return [
    odd,
    ...Object.entries(value).flatMap(([key, item]) => mutated(item, odd).map((other) => ({ ...value, [key]: other }))),
  ];
}
