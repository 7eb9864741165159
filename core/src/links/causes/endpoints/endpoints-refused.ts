import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';

/** GetEndpoints failed although the Hello was acknowledged. */
export const endpointsRefused = cause({
  id: 'endpoints-refused',
  steps: ['endpoints'],
  clause: 'Part 4 §5.5.4',
  title: 'The server does not report its endpoints',
  severity: 'fails',
  test({ facts }) {
    const listing = facts.latest('endpoints');
    return listing?.outcome === 'failed' ? { because: [listing], code: listing.code, reason: listing.reason } : null;
  },
  meaning: ({ code, reason }, { subject: { server } }) =>
    `${server.name} acknowledges the Hello and then fails to report its endpoints. ${explainedStatusCode(code)}${reason ? ` (${reason})` : ''}`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: `Read the log of ${server.name}, and allow discovery without security`,
      target: server.name,
      restart: true,
    }),
  ],
});
