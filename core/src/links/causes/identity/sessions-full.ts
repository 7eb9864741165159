import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';

const codes = ['BadTooManySessions', 'BadTcpNotEnoughResources', 'BadTcpServerTooBusy'];

/** The server has no session left. */
export const sessionsFull = cause({
  id: 'sessions-full',
  steps: ['identity'],
  clause: 'Part 4 §5.7.2',
  title: 'The server has no session left',
  severity: 'fails',
  test({ facts }) {
    const session = facts.latest('session');
    return session?.outcome === 'refused' && codes.includes(session.code)
      ? { because: [session], code: session.code }
      : null;
  },
  meaning: ({ code }, { subject: { server } }) =>
    `${server.name} accepts no more sessions. ${explainedStatusCode(code)}`,
  remedies: (_, { subject: { server } }) => [
    byHand({ title: 'Find who holds its sessions, and end the forgotten ones', target: server.name }),
    byHand({ title: 'Or raise the number of sessions that it allows', target: server.name, restart: true }),
  ],
});
