import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { isDenied, reportedOf, sayCaller } from '../classic-sight.js';

/** The account may not have the server started, or an object of it made. */
export const launchRefused = cause({
  id: 'launch-refused',
  steps: ['activation'],
  clause: 'MS-DCOM 2.2.28.2.1, 3.1.2.5.2.3.2',
  title: 'The account may not launch the server',
  severity: 'fails',
  test(sight) {
    const made = sight.facts.latest('classic-activation');
    if (!made || !isDenied(made.failure)) return null;
    const reported = reportedOf(sight, 'launch far', 'activate far');
    return { because: reported?.denied ? [made, reported.fact] : [made], denied: reported?.denied ?? null };
  },
  meaning: ({ denied }, sight) =>
    denied
      ? `${sight.subject.serverMachine.name} lets ${sayCaller(sight)} in, and refuses to start ${sight.subject.server.name} for it: ${denied.right} is not given. ${denied.says}`
      : `${sight.subject.serverMachine.name} lets ${sayCaller(sight)} in, and refuses to start ${sight.subject.server.name} for it. Either the launch permission of the application (or the default one, where it has none of its own) does not give launch and activation from another machine, or the machine’s limit takes it away.`,
  remedies: (_, sight) => [
    byHand({
      title: `Give ${sayCaller(sight)}, or a group of it, launch and activation from another machine`,
      target: `launch permission of ${sight.subject.server.name} alone`,
      before: 'refused',
      after: 'launch far and activate far, for this account alone',
    }),
    byHand({
      title: 'And see that the machine’s limit lets the same through',
      target: `${sight.subject.serverMachine.name}, limit of launch permissions`,
      before: 'perhaps refused',
      after: 'not less than what the application gives',
    }),
  ],
});
