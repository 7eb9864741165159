import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { callsOf, isBelow, isDenied, reportedOf, sayCaller } from '../classic-sight.js';

/** The server runs, and the account may not call it. */
export const accessRefused = cause({
  id: 'access-refused',
  steps: ['access'],
  clause: 'MS-DCOM 2.2.28.2.1',
  title: 'The account may not call the server',
  severity: 'fails',
  test(sight) {
    const access = sight.facts.latest('classic-access');
    if (!access || !isDenied(access.failure)) return null;
    const wanted = sight.facts.latest('classic-activation')?.wantedLevel ?? null;
    const { level } = callsOf(sight);
    const denied = reportedOf(sight, 'access far')?.denied ?? null;
    const rights = sight.facts.latest('classic-rights');
    return {
      because: denied && rights ? [access, rights] : [access],
      level,
      wanted: wanted !== null && isBelow(level, wanted) ? wanted : null,
      denied,
    };
  },
  meaning: ({ level, wanted, denied }, sight) =>
    wanted !== null
      ? `${sight.subject.server.name} wants its objects to be called at level ${wanted}, and the client calls at level ${level}.`
      : denied
        ? `${sight.subject.server.name} was started, and refuses the call of ${sayCaller(sight)}. ${denied.says}`
        : `${sight.subject.server.name} was started, and refuses the call of ${sayCaller(sight)}. Either its access permission (or the default one, where it has none of its own) does not give access from another machine, or the machine’s limit takes it away.`,
  remedies: ({ level, wanted }, sight) =>
    wanted !== null
      ? [
          byHand({
            title: 'Raise the level at the client',
            target: sight.subject.clientMachine.name,
            before: `level ${level}`,
            after: `level ${wanted}`,
            restart: true,
          }),
        ]
      : [
          byHand({
            title: `Give ${sayCaller(sight)}, or a group of it, access from another machine`,
            target: `access permission of ${sight.subject.server.name} alone`,
            before: 'refused',
            after: 'access far, for this account alone',
            restart: true,
          }),
          byHand({
            title: 'And see that the machine’s limit lets the same through',
            target: `${sight.subject.serverMachine.name}, limit of access permissions`,
            before: 'perhaps refused',
            after: 'not less than what the application gives',
            restart: true,
          }),
        ],
});
