import type { z } from 'zod';
import { isSurelyFit, plainly, unfitText } from '@loyal-hinge/contract';
import { invalid, notJson } from './problems.js';
import type { Faults } from './problems.js';

/** So many faults are told of one thing that was sent. */
export const mostFaults = 50;

/** A value as its schema takes it; what the database can’t keep comes in nowhere. */
export function parsed<Schema extends z.ZodType>(schema: Schema, value: unknown, where: string): z.infer<Schema> {
  refuseUnfit(value, where);
  return validated(schema, value, where);
}

function validated<Schema extends z.ZodType>(schema: Schema, value: unknown, where: string): z.infer<Schema> {
  const read = schema.safeParse(value, { error: plainly });
  if (read.success) return read.data;
  const faults = faultsOf(read.error, where);
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
  if (!isSurelyFit(text)) refuseUnfit(value, 'the body');
  return validated(schema, value, 'the body');
}

/** What a schema found wrong, with its place; at most 50. */
export const faultsOf = (error: z.ZodError, where: string): Faults =>
  error.issues
    .slice(0, mostFaults)
    .map((issue) => ({ place: issue.path.map(String).join('.') || where, says: issue.message }));

export function refuseUnfit(value: unknown, where: string): void {
  const fault = unfitText(value);
  if (!fault) return;
  const place = fault.place || where;
  throw invalid(`${place}: ${fault.says}`, [{ place, says: fault.says }]);
}
