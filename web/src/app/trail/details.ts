/** One thing that a row of the trail tells: a value, or what it was and what it became. */
export interface Detail {
  readonly name: string;
  readonly before: string | null;
  readonly value: string;
}

type Values = Readonly<Record<string, unknown>>;

const isValues = (value: unknown): value is Values =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** What a row tells besides who, what and when. Where it has a before and an after, only what differs between them. */
export function detailsOf(details: Values): readonly Detail[] {
  const { before, after, ...rest } = details;
  const plain = (values: Values): Detail[] =>
    Object.entries(values).map(([name, value]) => ({ name: worded(name), before: null, value: textOf(value) }));
  if (before === undefined && after === undefined) return plain(rest);
  if (!isValues(before) || !isValues(after))
    return [{ name: '', before: textOf(before), value: textOf(after) }, ...plain(rest)];
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])];
  const changed = names
    .map((name) => ({ name: worded(name), before: textOf(before[name]), value: textOf(after[name]) }))
    .filter((detail) => detail.before !== detail.value);
  return [...changed, ...plain(rest)];
}

/** `isDisabled` as “is disabled”. */
const worded = (name: string): string => name.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

const isOnlyId = (subject: string): boolean =>
  /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/.test(subject);
const namedBy = ['name', 'title', 'case'];

/** The name that details tell of what they are about: as it is now, or was; null: none. */
export function nameIn(details: Values): string | null {
  const told = [details, details['after'], details['before']].filter(isValues);
  const names = told.flatMap((values) => namedBy.map((key) => values[key]));
  return names.find((name): name is string => typeof name === 'string' && name !== '') ?? null;
}

/** What a row is about, in words: of what has an id alone, the name that its details tell, or the beginning of the id. */
export const aboutWords = (subject: string, details: Values): string =>
  isOnlyId(subject) ? (nameIn(details) ?? `${subject.slice(0, 8)} …`) : subject;

function textOf(value: unknown): string {
  if (value === undefined || value === null || value === '') return 'nothing';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.length === 0 ? 'nothing' : value.map(textOf).join(', ');
  if (isValues(value))
    return Object.entries(value)
      .map(([name, inner]) => `${worded(name)} ${textOf(inner)}`)
      .join(', ');
  return String(value);
}

/** All of it in one text, for filtering by eye and for files. */
export const detailsText = (details: Values): string =>
  detailsOf(details)
    .map(({ name, before, value }) => `${name} ${before === null ? value : `${before} → ${value}`}`.trim())
    .join('; ');
