import { byHand } from '../../../orders/change.js';
import { dayOf, spanOf } from '../../../time.js';
import { certificateSteps, problemOf, waivable } from './certificate-sight.js';

/** The certificate's validity has ended. */
export const expired = waivable({
  id: 'expired',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 6',
  title: 'The certificate has expired',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'expired'),
  meaning: ({ problem, side }, { at }) =>
    `The certificate of ${side.owner} expired on ${dayOf(problem.notAfter)}, ${spanOf(Date.parse(at) - Date.parse(problem.notAfter))} ago.`,
  remedies: ({ problem, side }) => [
    byHand({
      title: 'Renew the certificate, and have the new one trusted',
      target: side.owner,
      before: `valid until ${dayOf(problem.notAfter)}`,
      after: 'a new certificate with the same application URI',
      restart: true,
      undo: 'Restore the old one.',
    }),
  ],
});
