import { dayOf } from '../../../time.js';
import { certificateSteps, listRemedy, problemOf, waivable } from './certificate-sight.js';

/** The CRL should have been replaced by now. */
export const crlStale = waivable({
  id: 'crl-stale',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 10; RFC 5280 §5.1.2.5',
  title: 'The revocation list is out of date',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'crl-stale'),
  meaning: ({ problem, side }) =>
    `The CRL of ${problem.issuer} that ${side.judge} has should have been replaced by ${dayOf(problem.nextUpdate)}.`,
  remedies: ({ problem, side }, sight) => [
    listRemedy(
      side,
      sight,
      { what: 'supply-crl', issuer: problem.issuer },
      {
        title: `Put the newest CRL of ${problem.issuer} in place`,
        before: `valid until ${dayOf(problem.nextUpdate)}`,
        after: 'a CRL that is still current',
        undo: 'Restore what was there.',
      },
    ),
  ],
});
