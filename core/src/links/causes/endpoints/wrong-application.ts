import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';

/** Another application answers than the one recorded. */
export const wrongApplication = cause({
  id: 'wrong-application',
  steps: ['endpoints'],
  clause: 'Part 4 §7.2',
  title: 'Another application answers',
  severity: 'fails',
  test({ facts, subject }) {
    const listing = facts.latest('endpoints');
    if (listing?.outcome !== 'listed' || listing.endpoints.length === 0) return null;
    const told = [...new Set(listing.endpoints.map((endpoint) => endpoint.applicationUri))];
    return told.includes(subject.server.applicationUri) ? null : { because: [listing], told };
  },
  meaning: ({ told }, { subject: { server, serverMachine } }) =>
    `At this address ${listed(told)} answers; ${server.name} is recorded as ${server.applicationUri}. Either the device was replaced, or this is not ${serverMachine.name}.`,
  remedies: ({ told }, { subject: { link, server } }) => [
    byHand({
      title: 'If it was replaced: record its new application URI',
      target: server.name,
      before: server.applicationUri,
      after: listed(told),
    }),
    byHand({
      title: 'If it is the wrong machine: correct the host or port of the link',
      target: link.name,
      before: link.endpointUrl,
      after: 'the right address',
    }),
  ],
});
