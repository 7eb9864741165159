import type { z } from 'zod';
import { unfitText } from '@loyal-hinge/contract';
import { invalid, notJson } from './problems.js';

/** A value as its schema takes it; what the database can’t keep comes in nowhere. */
export function parsed<Schema extends z.ZodType>(schema: Schema, value: unknown, where: string): z.infer<Schema> {
  refuseUnfit(value, where);
  const read = schema.safeParse(value);
  if (read.success) return read.data;
  const faults = read.error.issues
    .slice(0, 50)
    .map((issue) => ({ place: issue.path.map(String).join('.') || where, says: issue.message }));
  const [first] = faults;
  const detail = !first
    ? `${where} is not valid.`
    : first.place === where
      ? first.says
      : `${first.place}: ${first.says}`;
  throw invalid(detail, faults);
}

/** The same from JSON text. */
export function parsedText<Schema extends z.ZodType>(schema: Schema, text: string): z.infer<Schema> {
  let value: unknown;
  try {
    value = text === '' ? {} : JSON.parse(text);
  } catch {
    throw notJson();
  }
  return parsed(schema, value, 'the body');
}

export function refuseUnfit(value: unknown, where: string): void {
  const fault = unfitText(value);
  if (!fault) return;
  const place = fault.place || where;
  throw invalid(`${place}: ${fault.says}`, [{ place, says: fault.says }]);
}
