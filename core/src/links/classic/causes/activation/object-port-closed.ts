import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { listed } from '../../../wording.js';
import { sayPlace } from '../../say-fact.js';

/** The server was made, and its own port does not answer. */
export const objectPortClosed = cause({
  id: 'object-port-closed',
  steps: ['object-port'],
  clause: 'MS-DCOM 3.2.4.1.1.2',
  title: 'The server’s own port does not answer',
  severity: 'fails',
  test({ facts }) {
    const seen = facts.latest('classic-object-port');
    if (!seen || seen.places.some(({ outcome }) => outcome === 'open')) return null;
    return { because: [seen], places: seen.places, ports: [...new Set(seen.places.flatMap(({ port }) => port ?? []))] };
  },
  meaning: ({ places }, { subject: { server } }) =>
    places.length === 0
      ? `${server.name} was started, and says of no port where it is.`
      : `${server.name} was started, and ${listed(places.map(sayPlace))}: the mapper’s port is open, and the one that the server was given when it started is not.`,
  remedies: ({ ports }, { subject: { server, serverMachine, clientMachine } }) => [
    byHand({
      title: 'Give the server one port of its own, and open that one',
      target: `${server.name} on ${serverMachine.name}`,
      before: `any free port${ports.length === 0 ? '' : `, just now ${listed(ports.map(String))}`}`,
      after: 'one fixed port, open for this client alone',
      restart: true,
    }),
    byHand({
      title: 'Or keep all of COM to a small range of ports, and open that',
      target: `${serverMachine.name}, and the firewalls on the way from ${clientMachine.name}`,
      before: 'thousands of ports',
      after: 'a range of some ten ports',
      restart: true,
    }),
  ],
});
