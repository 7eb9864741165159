import type * as z from 'zod';

export type ReadFile<Value> =
  { readonly ok: true; readonly value: Value } | { readonly ok: false; readonly says: string };

/** Reads a JSON text that somebody has written; says at which place what is wrong with it. */
export function readFileText<Value>(schema: z.ZodType<Value>, text: string): ReadFile<Value> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, says: 'This is no JSON, or it is cut off.' };
  }
  const read = schema.safeParse(value);
  if (read.success) return { ok: true, value: read.data };
  const [issue] = read.error.issues;
  const place = (issue?.path ?? []).join('.') || 'The file';
  return { ok: false, says: `${place}: ${issue?.message ?? 'it can’t be read'}` };
}
