import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { isDenied } from '../classic-sight.js';
import { sayFailure } from '../../say-fact.js';

/** The first call came to nothing, and it wasn’t refused. */
export const accessFailed = cause({
  id: 'access-failed',
  steps: ['access'],
  clause: 'Data Access 4.4.3.4',
  title: 'The server does not answer its first call',
  severity: 'fails',
  test({ facts }) {
    const access = facts.latest('classic-access');
    return access?.failure && !isDenied(access.failure) ? { because: [access], failure: access.failure } : null;
  },
  meaning: ({ failure }, { subject: { server } }) =>
    `${server.name} was started, and did not answer its first call: ${sayFailure(failure)}. Most often it has ended at once, or hangs.`,
  remedies: (_, { subject: { server, serverMachine } }) => [
    byHand({
      title: 'Start it anew, and look into its own log',
      target: `${server.name} on ${serverMachine.name}`,
      restart: true,
      undo: 'Nothing to undo.',
    }),
  ],
});
