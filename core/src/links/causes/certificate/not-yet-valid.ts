import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';
import { certificateSteps, problemOf, waivable } from './certificate-sight.js';

/** The certificate's validity has not begun. */
export const notYetValid = waivable({
  id: 'not-yet-valid',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 6',
  title: 'The certificate is not valid yet',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'not-yet-valid'),
  meaning: ({ problem, side }) =>
    `The certificate of ${side.owner} is valid only from ${dayOf(problem.notBefore)}. Where that is near, first compare the clocks: it was probably created on a machine whose clock is ahead.`,
  remedies: ({ side }) => [
    byHand({
      title: 'Compare the clocks of both machines with the time source',
      target: side.owner,
      undo: 'Nothing to undo.',
    }),
    byHand({
      title: 'Then create the certificate again',
      target: side.owner,
      restart: true,
      undo: 'Restore the old one.',
    }),
  ],
});
