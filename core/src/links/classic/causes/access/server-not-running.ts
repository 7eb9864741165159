import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';

/** It answers, and says that it does not work. */
export const serverNotRunning = cause({
  id: 'server-not-running',
  steps: ['access'],
  clause: 'Data Access 4.4.3.4',
  title: 'The server says that it does not run',
  severity: 'weak',
  test({ facts }) {
    const access = facts.latest('classic-access');
    return access && !access.failure && access.state !== 'running' ? { because: [access], state: access.state } : null;
  },
  meaning: ({ state }, { subject: { server } }) =>
    `${server.name} answers, and says of itself: ${state ?? 'a state that has no name'}. Its values are not those of the process.`,
  remedies: ({ state }, { subject: { server } }) => [
    byHand({
      title: state === 'no configuration' ? 'Load its project' : 'Look into its own settings and log',
      target: server.name,
      before: state ?? 'unknown',
      after: 'running',
    }),
  ],
});
