import { counted } from '../../wording.js';
import { certificateSteps, listRemedy, problemOf, waivable } from './certificate-sight.js';

/** What lies there as a CRL is none, and nothing else tells whether the certificate was revoked. */
export const crlUnreadable = waivable({
  id: 'crl-unreadable',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 10; RFC 5280 §6.3.3',
  title: 'A revocation list can’t be read',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'crl-unreadable'),
  meaning: ({ problem, side }) =>
    `${counted(problem.count, 'CRL')} of ${side.judge} can’t be read, and nothing else tells whether ${problem.subject} was revoked. ${problem.says}`,
  remedies: ({ problem, side }, sight) => [
    listRemedy(
      side,
      sight,
      { what: 'supply-crl', issuer: problem.issuer },
      {
        title: `Put a current CRL of ${problem.issuer} in the place of what can’t be read`,
        before: 'a file that is no CRL',
        after: 'a CRL that is still current',
        undo: 'Restore what was there.',
      },
    ),
  ],
});
