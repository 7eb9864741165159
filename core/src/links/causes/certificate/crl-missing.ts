import { certificateSteps, listRemedy, problemOf, waivable } from './certificate-sight.js';

/** No CRL for an issuer that needs one. */
export const crlMissing = waivable({
  id: 'crl-missing',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 10',
  title: 'A revocation list is missing',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'crl-missing'),
  meaning: ({ problem, side }) =>
    `${side.judge} has no CRL of ${problem.issuer}, so it can’t tell whether ${problem.subject} was revoked, and must refuse it.`,
  remedies: ({ problem, side }, sight) => [
    listRemedy(
      side,
      sight,
      { what: 'supply-crl', issuer: problem.issuer },
      {
        title: `Put a current CRL of ${problem.issuer} beside its certificate`,
        before: 'no CRL',
        after: 'a CRL that is still current',
        undo: 'Restore what was there.',
      },
    ),
  ],
});
