import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';
import { certificateSteps, problemOf, waivable } from './certificate-sight.js';

/** An issuer's validity has ended or not begun. */
export const issuerExpired = waivable({
  id: 'issuer-expired',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 6',
  title: 'An issuer has expired',
  severity: 'fails',
  explains: ['not-trusted', 'expired', 'channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'issuer-expired'),
  meaning: ({ problem, side }) =>
    `The issuer ${problem.subject}, above the certificate of ${side.owner}, is valid from ${dayOf(problem.notBefore)} to ${dayOf(problem.notAfter)} only.`,
  remedies: ({ problem }) => [
    byHand({
      title: 'Renew the issuer, and re-issue what was issued below it',
      target: problem.subject,
      restart: true,
      undo: 'Keep the old issuer in the lists until all is proved.',
    }),
  ],
});
