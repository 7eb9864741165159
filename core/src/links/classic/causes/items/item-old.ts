import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { spanOf } from '../../../../time.js';

/** A value is good, and older than the link allows. */
export const itemOld = cause({
  id: 'item-old',
  steps: ['read'],
  clause: 'Data Access 6.7.4',
  title: 'The value is stale',
  severity: 'weak',
  test({ facts, subject: { link } }) {
    const read = facts.latest('classic-read');
    const ages = (read?.items ?? []).flatMap(({ path, timestamp, code }) =>
      read && code === 0 && timestamp !== null ? [{ path, ageMs: Date.parse(read.at) - Date.parse(timestamp) }] : [],
    );
    const [oldest] = ages.sort((left, right) => right.ageMs - left.ageMs);
    return read && oldest && oldest.ageMs > link.staleAfterMs ? { because: [read], ...oldest } : null;
  },
  meaning: ({ path, ageMs }, { subject: { link } }) =>
    `${path} was read from the device, and its value is ${spanOf(ageMs)} old; this link allows ${spanOf(link.staleAfterMs)}.`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: 'Check whether the device still sends, and whether its clock is right',
      target: server.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
