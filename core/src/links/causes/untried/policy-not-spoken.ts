import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { endpointName } from '../../../entry/endpoint.js';

/** Loyal Hinge itself can't open a channel with the policy that both sides would take. */
export const policyNotSpoken = cause({
  id: 'policy-not-spoken',
  steps: ['secure-channel'],
  clause: 'Part 7',
  title: 'This security policy can’t be tried from here',
  severity: 'weak',
  test({ facts, choice }) {
    const stop = facts.all('not-tried').find(({ reason }) => reason === 'policy not spoken here');
    return stop ? { because: [stop], name: choice?.chosen ? endpointName(choice.chosen) : stop.what } : null;
  },
  meaning: ({ name }, { subject: { client, server } }) =>
    `${client.name} and ${server.name} would take ${name}. Loyal Hinge has no elliptic curves, so the channel was not tried: what follows is not known.`,
  remedies: ({ name }, { subject: { client, link } }) => [
    byHand({
      title: `Try ${client.name} at its machine, and look at what it reports`,
      target: link.name,
      before: `${name}, not tried`,
      after: `${name}, seen to work by hand`,
      undo: 'Nothing is changed.',
    }),
  ],
});
