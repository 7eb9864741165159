import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';

/** The server runs as whoever sits at the machine. */
export const runsAsWhoever = cause({
  id: 'runs-as-whoever',
  steps: ['activation'],
  clause: 'MS-DCOM 3.1.2.5.2.3.3; RunAs of the application',
  title: 'The server runs as whoever is signed in',
  severity: 'weak',
  test({ facts }) {
    const rights = facts.latest('classic-rights');
    return rights?.runAs?.toLowerCase() === 'interactive user' ? { because: [rights] } : null;
  },
  meaning: (_, { subject: { server, serverMachine } }) =>
    `${server.name} runs as whoever is signed in at ${serverMachine.name}: with nobody there it does not start, and with another person it has other rights.`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: 'Let it run under a service account of its own',
      target: server.name,
      before: 'whoever is signed in',
      after: 'a service account',
      restart: true,
    }),
  ],
});
