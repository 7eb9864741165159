import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { dayOf } from '../../../../time.js';
import { hasOtherReason, isBelow, isDenied, reportedOf } from '../classic-sight.js';

/** The export gives what the machine refuses: it is old, or what it says does not count yet. */
export const notInForce = cause({
  id: 'not-in-force',
  steps: ['activation', 'access'],
  clause: 'MS-DCOM 3.1.2.5.2.3.2',
  title: 'The settings say otherwise: they are not in force',
  severity: 'weak',
  test(sight, step) {
    const reported =
      step === 'activation' ? reportedOf(sight, 'launch far', 'activate far') : reportedOf(sight, 'access far');
    const made = sight.facts.latest('classic-activation');
    const refused = step === 'activation' ? made : sight.facts.latest('classic-access');
    if (!refused || !isDenied(refused.failure) || !reported?.isGiven || hasOtherReason(sight)) return null;
    if (step === 'activation' && made && isBelow(made.level, 'integrity')) return null;
    return { because: [refused, reported.fact], takenAt: reported.fact.takenAt };
  },
  meaning: ({ takenAt }, { subject: { server, serverMachine } }) =>
    `By the export of ${dayOf(takenAt)}, ${serverMachine.name} gives the account what it refuses. Either the settings were changed since, or ${server.name} was started before they were.`,
  remedies: (_, { subject: { server, serverMachine } }) => [
    byHand({ title: 'Bring a new export of the machine', target: serverMachine.name, undo: 'Nothing to undo.' }),
    byHand({ title: 'Start the server anew', target: server.name, restart: true, undo: 'Nothing to undo.' }),
  ],
});
