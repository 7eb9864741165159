import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';
import { certificateSteps, problemOf } from './certificate-sight.js';

/** An issuer's certificate is on a valid CRL. */
export const issuerRevoked = cause({
  id: 'issuer-revoked',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 11',
  title: 'An issuer was revoked',
  severity: 'fails',
  explains: ['not-trusted', 'revoked', 'channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'issuer-revoked'),
  isGrave: () => true,
  meaning: ({ problem, side }) =>
    `${problem.issuer} revoked the issuer ${problem.subject}, above the certificate of ${side.owner}, on ${dayOf(problem.since)}. Nothing below it can be trusted.`,
  remedies: ({ problem }) => [
    byHand({
      title: 'Re-issue everything below it from another authority',
      target: problem.subject,
      restart: true,
      undo: 'Nothing to undo.',
    }),
  ],
});
