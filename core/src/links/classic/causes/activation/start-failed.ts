import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { hasCode } from '../classic-sight.js';
import { sayFailure } from '../../say-fact.js';

const [timedOut, runAsFailed] = [0x80080005, 0x8000401a];

/** The account may start it, and it does not start. */
export const startFailed = cause({
  id: 'start-failed',
  steps: ['activation'],
  clause: 'MS-DCOM 3.1.2.5.2.3.3',
  title: 'The server does not start',
  severity: 'fails',
  test({ facts }) {
    const made = facts.latest('classic-activation');
    if (!made?.failure || !hasCode(made.failure, timedOut, runAsFailed)) return null;
    const rights = facts.latest('classic-rights');
    const service = rights?.service ?? null;
    return {
      because: rights && service ? [made, rights] : [made],
      failure: made.failure,
      isAccount: hasCode(made.failure, runAsFailed),
      service,
    };
  },
  meaning: ({ failure, isAccount, service }, { subject: { server } }) =>
    `${server.name} does not start: ${sayFailure(failure)}.${
      isAccount
        ? ' Its own account has another password than the one that was typed there, may not sign in as a service, or it runs as whoever is signed in, and nobody is.'
        : ' It hangs, waits for somebody at a screen that nobody sees, or its service is switched off.'
    }${service ? ` By what was exported, its service ${service.name} runs as ${service.runsAs || 'nobody'}, is ${service.state.toLowerCase() || 'in no state'}, and starts ${startWord(service.startMode)}.` : ''}`,
  remedies: ({ isAccount }, { subject: { server, serverMachine } }) => [
    isAccount
      ? byHand({
          title: 'Type the password of the account that the server runs as again, or give it a service account',
          target: `${server.name} on ${serverMachine.name}`,
          before: 'its account can’t sign in',
          after: 'an account of its own, which may sign in as a service',
          restart: true,
        })
      : byHand({
          title: 'Start its service, and see what it waits for',
          target: `${server.name} on ${serverMachine.name}`,
          before: 'not running',
          after: 'running, and set to start by itself',
        }),
  ],
});

/** As the machine’s list has it. */
const startWord = (mode: string): string =>
  ({ auto: 'by itself', manual: 'when it is asked for', disabled: 'never: it is disabled' })[mode.toLowerCase()] ??
  `as “${mode}”`;
