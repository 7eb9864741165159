import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { hasCode, isDenied } from '../classic-sight.js';
import { sayFailure } from '../../say-fact.js';

/** The server was not made, for a reason that has no name here. */
export const activationFailed = cause({
  id: 'activation-failed',
  steps: ['activation'],
  clause: 'MS-DCOM 3.1.2.5.2.3.3',
  title: 'The server is not made',
  severity: 'fails',
  test({ facts }) {
    const made = facts.latest('classic-activation');
    if (!made?.failure || isDenied(made.failure) || hasCode(made.failure, 0x80040154, 0x80080005, 0x8000401a))
      return null;
    return { because: [made], failure: made.failure };
  },
  meaning: ({ failure }, { subject: { server } }) => `${server.name} was not made: ${sayFailure(failure)}.`,
  remedies: (_, { subject: { serverMachine } }) => [
    byHand({
      title: 'Look into the machine’s event log for entries of DCOM at this time',
      target: serverMachine.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
