import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { dayOf } from '../../../../time.js';

/** More than this many is no narrow range. */
const narrow = 1000;

/** Objects may be at thousands of ports, where this server needs one. */
export const rangeOpen = cause({
  id: 'range-open',
  steps: ['object-port'],
  clause: 'MS-RPCE 2.1.1.1',
  title: 'A wide range of ports must be open for one server',
  severity: 'weak',
  test({ facts }) {
    const rights = facts.latest('classic-rights');
    const count = rights?.portCount ?? 0;
    return rights && count > narrow && rights.hasOwnPort === false
      ? { because: [rights], count, takenAt: rights.takenAt }
      : null;
  },
  meaning: ({ count, takenAt }, { subject: { server, serverMachine } }) =>
    `By the export of ${dayOf(takenAt)}, objects on ${serverMachine.name} are at any of ${count.toLocaleString('en')} ports, and whatever stands in between must let all of them through. ${server.name} needs one.`,
  remedies: ({ count }, { subject: { server } }) => [
    byHand({
      title: 'Give the server a port of its own, and open that one alone',
      target: `endpoint of ${server.name} (its AppID, value Endpoints)`,
      before: `any of ${count.toLocaleString('en')} ports`,
      after: 'ncacn_ip_tcp,0, and one port',
      restart: true,
    }),
  ],
});
