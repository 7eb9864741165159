/**
 * A value with all of its texts as the database can keep them: PostgreSQL stores no NUL, and half of a surrogate pair is no
 * character. Texts of other machines are data, whatever stands in them.
 */
export const fitted = <Value>(value: Value): Value => fit(value) as Value;

function fit(value: unknown): unknown {
  if (typeof value === 'string') return wellFormed(value);
  if (Array.isArray(value)) return value.map(fit);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [wellFormed(key), fit(inner)]));
}

const wellFormed = (text: string): string =>
  text
    .replaceAll('\u0000', '\ufffd')
    .replace(/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '\ufffd');
