import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { accountCodes, hasCode, isDenied } from '../classic-sight.js';
import { sayFailure } from '../../say-fact.js';

/** Signing in came to nothing, and it isn’t the account. */
export const signInFailed = cause({
  id: 'sign-in-failed',
  steps: ['sign-in'],
  clause: 'MS-RPCE 3.3.1.5.2',
  title: 'Signing in comes to nothing',
  severity: 'fails',
  test({ facts }) {
    const signIn = facts.latest('classic-sign-in');
    if (signIn?.outcome !== 'refused' || !signIn.failure || !signIn.isAtMapper) return null;
    const isOfAccount =
      isDenied(signIn.failure) || hasCode(signIn.failure, ...accountCodes, 0x80070721, 0x00000721, 0x1c01000b);
    return isOfAccount ? null : { because: [signIn], failure: signIn.failure };
  },
  meaning: ({ failure }, { subject: { serverMachine } }) =>
    `Signing in at ${serverMachine.name} came to nothing, and not because of the account: ${sayFailure(failure)}.`,
  remedies: (_, { subject: { serverMachine } }) => [
    byHand({
      title: 'See whether the machine takes NTLM, and whether something on the way cuts its connections',
      target: serverMachine.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
