import { inspect } from 'node:util';
import type { GatewayValue } from '@loyal-hinge/core';
import type { GatewayItems } from '@loyal-hinge/contract/line';

type ValueSaid = GatewayItems['items'][number]['shown'];

const longest = 500;

/** A value as it is told to the server: what JSON has no form for is put into words, and long texts are cut. */
export const valueToSay = ({ value, type, status, sourceTime }: GatewayValue): ValueSaid => ({
  value: plain(value),
  type,
  status,
  sourceTime,
});

function plain(value: unknown): ValueSaid['value'] {
  if (value === null || value === undefined) return null;
  if (typeof value === 'boolean' || (typeof value === 'number' && Number.isFinite(value))) return value;
  if (value instanceof Date) return value.toISOString();
  const text = typeof value === 'string' ? value : inspect(value, { depth: 3, maxArrayLength: 20, breakLength: 200 });
  return text.length > longest ? `${text.slice(0, longest)}…` : text;
}
