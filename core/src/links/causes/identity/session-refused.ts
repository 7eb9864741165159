import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import { serverSignatureWrong } from './server-signature-wrong.js';
import { sessionsFull } from './sessions-full.js';
import { userRefused } from './user-refused.js';

/** The session failed for a reason that no other cause names. */
export const sessionRefused = cause({
  id: 'session-refused',
  steps: ['identity'],
  clause: 'Part 4 §5.7',
  title: 'The server refuses the session',
  severity: 'fails',
  test(sight, step) {
    const session = sight.facts.latest('session');
    if (session?.outcome !== 'refused') return null;
    const named = [sessionsFull, userRefused, serverSignatureWrong].some((other) =>
      other.examine(sight, step, () => ''),
    );
    return named ? null : { because: [session], session };
  },
  meaning: ({ session }, { subject: { server } }) =>
    `${server.name} refused ${session.during}. ${explainedStatusCode(session.code)}${session.reason ? ` (${session.reason})` : ''}`,
  remedies: (_, { subject: { server } }) => [
    byHand({ title: `Read the log of ${server.name}`, target: server.name, undo: 'Nothing to undo.' }),
  ],
});
