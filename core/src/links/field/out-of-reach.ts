import { isGoodQuality } from '../classic/quality.js';
import type { FactBook, FactOf } from '../facts.js';

/**
 * Whether the server gives good values of all items that come from a device and were read: it then has a way there, whatever
 * is seen from where a check is made. Not where a firewall’s rules say that it has none.
 */
export function isServedFrom(facts: FactBook, { deviceId }: Pick<FactOf<'field-reach'>, 'deviceId'>): boolean {
  if (facts.all('field-reach').some((fact) => fact.deviceId === deviceId && fact.stoppedBy.length > 0)) return false;
  const paths = facts.all('field-origin').flatMap((origin) => (origin.deviceId === deviceId ? [origin.path] : []));
  const read = paths.map((path) => isGood(facts, path)).filter((isOne) => isOne !== null);
  return read.length > 0 && read.every(Boolean);
}

/** Whether an item was read, and its value is good; null: it was not read. */
function isGood(facts: FactBook, path: string): boolean | null {
  const read = facts.all('item-read').findLast((fact) => fact.path === path);
  if (read) return read.code.startsWith('Good');
  const item = facts.latest('classic-read')?.items.find((one) => one.path === path);
  return item ? item.code === 0 && isGoodQuality(item.quality) : null;
}

/** It was open, and closed before a single octet of an answer came. */
export const endsAtOnce = ({ outcome, received }: FactOf<'field-answer'>): boolean =>
  outcome === 'reset' || (outcome === 'closed' && received === 0);
