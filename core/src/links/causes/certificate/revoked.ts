import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';
import { certificateSteps, problemOf } from './certificate-sight.js';

/** The certificate, or an issuer's, is on a valid CRL. */
export const revoked = cause({
  id: 'revoked',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 11',
  title: 'The certificate was revoked',
  severity: 'fails',
  explains: ['not-trusted', 'channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'revoked'),
  isGrave: () => true,
  meaning: ({ problem, side }) =>
    `${problem.issuer} revoked the certificate of ${side.owner} on ${dayOf(problem.since)}. It must never be trusted again.`,
  remedies: ({ side }) => [
    byHand({
      title: 'Create a new certificate, and remove the revoked one from every trust list',
      target: side.owner,
      restart: true,
      undo: 'Nothing to undo.',
    }),
  ],
});
