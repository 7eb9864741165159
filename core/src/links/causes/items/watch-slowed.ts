import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { spanOf } from '../../../time.js';

/** The server samples much more slowly than asked. */
export const watchSlowed = cause({
  id: 'watch-slowed',
  steps: ['watch'],
  clause: 'Part 4 §5.13.2',
  title: 'The server watches more slowly than asked',
  severity: 'weak',
  test({ facts }) {
    const slowed = facts
      .all('item-watched')
      .find((fact) => fact.code === 'Good' && fact.revisedSamplingIntervalMs > 2 * fact.requestedSamplingIntervalMs);
    return slowed ? { because: [slowed], slowed } : null;
  },
  meaning: ({ slowed }) =>
    `${slowed.path} was to be sampled every ${spanOf(slowed.requestedSamplingIntervalMs)}, and the server does it every ${spanOf(slowed.revisedSamplingIntervalMs)}. Short events will be missed.`,
  remedies: ({ slowed }, { subject: { server } }) => [
    byHand({
      title: 'Lower the least sampling interval of the item',
      target: server.name,
      before: spanOf(slowed.revisedSamplingIntervalMs),
      after: spanOf(slowed.requestedSamplingIntervalMs),
      restart: true,
    }),
  ],
});
