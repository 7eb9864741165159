import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { spanOf } from '../../../time.js';

/** The value's source timestamp is older than the link allows. */
export const itemStale = cause({
  id: 'item-stale',
  steps: ['read', 'watch'],
  clause: 'Part 4 §7.11.3',
  title: 'The value is stale',
  severity: 'weak',
  test({ facts, subject: { link } }, step) {
    const values =
      step === 'read'
        ? facts.all('item-read').map((fact) => ({ fact, source: fact.sourceTimestamp }))
        : facts.all('item-watched').map((fact) => ({ fact, source: fact.newestSourceTimestamp ?? null }));
    const ages = values.flatMap(({ fact, source }) => {
      const ageMs = source ? Date.parse(fact.at) - Date.parse(source) : 0;
      return ageMs > link.staleAfterMs ? [{ fact, ageMs }] : [];
    });
    const oldest = ages.sort((left, right) => right.ageMs - left.ageMs)[0];
    return oldest ? { because: [oldest.fact], path: oldest.fact.path, ageMs: oldest.ageMs } : null;
  },
  meaning: ({ path, ageMs }, { subject: { link } }) =>
    `${path} arrives with a good status, and its source last spoke ${spanOf(ageMs)} ago; this link allows ${spanOf(link.staleAfterMs)}.`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: 'Check whether the device still sends, and whether its clock is right',
      target: server.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
