import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { spanOf } from '../../../../time.js';
import { accountCodes, hasCode, isDenied, sayCaller } from '../classic-sight.js';
import { sayFailure } from '../../say-fact.js';

const securityFailed = [0x80070721, 0x00000721, 0x1c01000b];

const locked = [0x80070775, 0x00000775];

/** The machine does not let the account in. */
export const accountRefused = cause({
  id: 'account-refused',
  steps: ['sign-in'],
  clause: 'MS-RPCE 3.3.1.5.2, MS-NLMP 3.2.5',
  title: 'The account is not let in',
  severity: 'fails',
  test({ facts }) {
    const signIn = facts.latest('classic-sign-in');
    if (signIn?.outcome !== 'refused' || !signIn.failure) return null;
    const isOfAccount = isDenied(signIn.failure) || hasCode(signIn.failure, ...accountCodes, ...securityFailed);
    return isOfAccount ? { because: [signIn], failure: signIn.failure, clockMs: signIn.clockApartMs } : null;
  },
  meaning({ failure, clockMs }, sight) {
    const clock =
      clockMs !== null && Math.abs(clockMs) > sight.rules.clockToleranceMs
        ? ` The clocks are ${spanOf(Math.abs(clockMs))} apart, which by itself is a reason to refuse.`
        : '';
    const why = hasCode(failure, ...locked)
      ? 'Wrong passwords were given too often, by this link or by whoever else has the account: even the right one is refused until it is unlocked.'
      : 'Most often the account is not there, or has another password there than at the client: two machines without a domain know an account by the same name and the same password.';
    return `${sight.subject.serverMachine.name} does not let ${sayCaller(sight)} in: ${sayFailure(failure)}. ${why}${clock}`;
  },
  remedies: ({ failure }, sight) => {
    const { serverMachine, clientMachine, link } = sight.subject;
    if (hasCode(failure, ...locked))
      return [
        byHand({
          title: `Find who still gives an old password of ${sayCaller(sight)}, and give it the right one`,
          target: `the security log of ${serverMachine.name}, and the machines that it names`,
          before: 'wrong passwords lock the account again',
          after: 'the right password everywhere',
        }),
        byHand({
          title: `Unlock ${sayCaller(sight)}`,
          target: serverMachine.name,
          before: 'locked',
          after: 'unlocked',
          undo: 'Nothing to undo.',
        }),
      ];
    return [
      byHand({
        title: `Give ${sayCaller(sight)} the same password on both machines`,
        target: `${serverMachine.name} and ${clientMachine.name}`,
        before: 'it differs, or the account is missing on one of them',
        after: 'the same name and password on both',
      }),
      ...(link.identity.kind === 'user'
        ? [
            {
              title: 'Type the password again',
              target: link.name,
              before: 'the password that was tried',
              after: 'another one, kept encrypted',
              change: { kind: 'set-password' as const, linkId: link.id, userName: link.identity.userName },
              restart: false,
              undo: 'Type the old password again.',
            },
          ]
        : []),
    ];
  },
});
