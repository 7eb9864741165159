import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { spanOf } from '../../../../time.js';

/** The server tells changes much more slowly than asked. */
export const rateRevised = cause({
  id: 'rate-revised',
  steps: ['watch'],
  clause: 'Data Access 4.4.3.1',
  title: 'The server tells changes more slowly than asked',
  severity: 'weak',
  test({ facts }) {
    const watch = facts.latest('classic-watch');
    if (!watch || watch.revisedMs === null || watch.revisedMs <= 2 * watch.wantedMs) return null;
    return { because: [watch], wantedMs: watch.wantedMs, revisedMs: watch.revisedMs };
  },
  meaning: ({ wantedMs, revisedMs }, { subject: { server } }) =>
    `Changes were wanted every ${spanOf(wantedMs)}, and ${server.name} tells them every ${spanOf(revisedMs)}. Short events will be missed.`,
  remedies: ({ wantedMs, revisedMs }, { subject: { server } }) => [
    byHand({
      title: 'Lower the least update rate of the server, if its devices can keep it',
      target: server.name,
      before: spanOf(revisedMs),
      after: spanOf(wantedMs),
      restart: true,
    }),
  ],
});
