import { byHand } from '../../../orders/change.js';
import { heldWhileMoving } from '../../../field/held-while-moving.js';
import { spanOf } from '../../../time.js';
import { cause } from '../../cause.js';
import type { FactBook } from '../../facts.js';
import { comparedOrigins } from '../origin-sight.js';

/** When an item’s value was taken from its source, by what the server says of it; null: it does not say. */
function saidAt(facts: FactBook, path: string): number | null {
  const read = facts.all('item-read').findLast((fact) => fact.path === path)?.sourceTimestamp;
  const item = facts.latest('classic-read')?.items.find((one) => one.path === path)?.timestamp;
  const told = read ?? item ?? null;
  return told === null ? null : Date.parse(told);
}

/** The register changes, and the server’s value stays as it is for longer than the link allows. */
export const serverPollsSlowly = cause({
  id: 'server-polls-slowly',
  steps: ['origin-value'],
  clause: 'Part 4 §7.11.3',
  title: 'The server asks the device too seldom',
  severity: 'weak',
  explains: ['item-stale', 'item-old'],
  test({ facts, subject: { link } }) {
    for (const { origin, compared } of comparedOrigins(facts)) {
      const { place, form } = origin;
      const { isHeld, forMs } = heldWhileMoving({ ...compared, place, form });
      if (!isHeld) continue;
      // It may have been held long before we came: by what the server says itself.
      const told = saidAt(facts, origin.path);
      const sinceMs = told === null ? forMs : Math.max(forMs, Date.parse(compared.at) - told);
      if (sinceMs > link.staleAfterMs) return { because: [compared, origin], origin, forMs: sinceMs };
    }
    return null;
  },
  meaning: ({ origin, forMs }, { subject: { link, server } }) =>
    `The register of ${origin.path} changed while ${server.name} showed the same value for ${spanOf(forMs)} and longer: it asks the device more seldom than this link allows (${spanOf(link.staleAfterMs)}).`,
  remedies: ({ origin }, { subject: { link, server } }) => [
    byHand({
      title: `Let ${server.name} ask ${origin.device ?? origin.deviceId} at least every ${spanOf(link.staleAfterMs)}`,
      target: server.name,
      before: 'more seldom',
      after: `every ${spanOf(link.staleAfterMs)} or oftener`,
      undo: 'Set the old poll rate again.',
    }),
  ],
});
