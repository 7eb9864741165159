import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';
import { isWithout } from './history-refused.js';
import { spanOf } from '../../../time.js';

/** The history is there, and holds nothing of the last while. */
export const historyEmpty = cause({
  id: 'history-empty',
  steps: ['history'],
  clause: 'Part 11 §6.5.3',
  title: 'The history is empty',
  severity: 'weak',
  test({ facts }) {
    const [first, ...rest] = facts
      .all('item-history')
      .filter((fact) => !fact.code.startsWith('Bad') && fact.values === 0 && !isWithout(fact));
    return first ? { because: [first, ...rest], paths: [first, ...rest].map(({ path }) => path), first } : null;
  },
  meaning: ({ paths, first }) =>
    `The history of ${listed(paths)} can be read, and has no value in the last ${spanOf(Date.parse(first.to) - Date.parse(first.from))}: recording has stopped, has not begun, or the clocks differ.`,
  remedies: ({ paths }, { subject: { server } }) => [
    byHand({ title: `Check whether ${server.name} records ${listed(paths)} now`, target: server.name }),
  ],
});
