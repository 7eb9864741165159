import { cause } from '../../cause.js';
import { isStopped, seenThrough, stopperOf } from '../../passage-seen.js';
import { listed } from '../../wording.js';
import { dayOf } from '../../../time.js';
import { byHand } from '../../../orders/change.js';

/** By its rules a firewall stops the link, and the link gets through all the same. */
export const rulesOutOfDate = cause({
  id: 'rules-out-of-date',
  steps: ['passage'],
  clause: 'IEC 62443-3-2 ZCR 6',
  title: 'A firewall’s rules are not as they are known',
  severity: 'weak',
  test(sight) {
    const fact = sight.facts.all('passage').find((each) => isStopped(each) && seenThrough(sight, each) === 'through');
    const firewall = fact && stopperOf(fact);
    return fact && firewall ? { because: [fact], fact, firewall } : null;
  },
  meaning: ({ fact, firewall }) =>
    `By the rules that are known, ${firewall.name} stops TCP port ${listed(fact.ports)}, and the link gets through all the same. ${firewall.takenAt === null ? 'Its rules' : `The rules of ${dayOf(firewall.takenAt)}`} are out of date, or there is another way around it.`,
  remedies: ({ firewall }) => [
    byHand({
      title: `Take the rules of ${firewall.name} again, and import them`,
      target: firewall.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
