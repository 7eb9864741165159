import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { counted } from '../../wording.js';
import { dayOf } from '../../../time.js';
import { certificateSteps, problemOf } from './certificate-sight.js';

/** The certificate is valid, and not for long. */
export const expiresSoon = cause({
  id: 'expires-soon',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 6',
  title: 'The certificate expires soon',
  severity: 'weak',
  test: (sight, step) => problemOf(sight, step, 'expires-soon'),
  meaning: ({ problem, side }) =>
    `The certificate of ${side.owner} has ${counted(problem.days, 'day')} left, until ${dayOf(problem.notAfter)}. After that the link is parted.`,
  remedies: ({ problem, side }) => [
    byHand({
      title: 'Renew the certificate in time',
      target: side.owner,
      before: `valid until ${dayOf(problem.notAfter)}`,
      after: 'renewed, with the old one trusted until the new one is proved',
      restart: true,
      undo: 'Restore the old one.',
    }),
  ],
});
