import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The data type is not the one that the last check saw. */
export const typeChanged = cause({
  id: 'type-changed',
  steps: ['read'],
  clause: 'Part 3 §5.6.2',
  title: 'The data type has changed',
  severity: 'weak',
  test({ facts }) {
    for (const before of facts.all('earlier-item-type')) {
      const now = facts.all('item-read').find(({ path }) => path === before.path);
      if (now?.dataType && now.code === 'Good' && now.dataType !== before.dataType)
        return { because: [now, before], path: now.path, was: before.dataType, is: now.dataType };
    }
    return null;
  },
  meaning: ({ path, was, is }) =>
    `${path} is of the type ${is} now; the check before this one saw ${was}. A client that expects the old type may read nonsense or stop.`,
  remedies: ({ path, was, is }, { subject: { client, server } }) => [
    byHand({
      title: `Find out whether ${server.name} was reconfigured, and set ${client.name} to the type ${is}`,
      target: `${path} at ${client.name}`,
      before: was,
      after: is,
    }),
  ],
});
