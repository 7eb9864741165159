import { byHand } from '../../../orders/change.js';
import { fieldValue, wordsOf } from '../../../field/value-form.js';
import { spanOf } from '../../../time.js';
import { cause } from '../../cause.js';
import { comparedOrigins } from '../origin-sight.js';

/** The register changes, and the server’s value stays as it is for longer than the link allows. */
export const serverPollsSlowly = cause({
  id: 'server-polls-slowly',
  steps: ['origin-value'],
  clause: 'Part 4 §7.11.3',
  title: 'The server asks the device too seldom',
  severity: 'weak',
  test({ facts, subject: { link } }) {
    for (const { origin, compared } of comparedOrigins(facts)) {
      const from = origin.place - compared.first;
      const values = compared.samples.map(({ words }) => {
        const own = words.slice(from, from + wordsOf(origin.form));
        return own.every((word) => word !== null) ? fieldValue(own as number[], origin.form) : null;
      });
      const [first, last] = [compared.samples[0], compared.samples.at(-1)];
      if (!first || !last) continue;
      const forMs = Date.parse(last.at) - Date.parse(first.at);
      const isHeld = first.value !== null && compared.samples.every(({ value }) => value === first.value);
      const moved = new Set(values.filter((value) => value !== null)).size;
      if (isHeld && moved > 2 && forMs > link.staleAfterMs) return { because: [compared, origin], origin, forMs };
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
