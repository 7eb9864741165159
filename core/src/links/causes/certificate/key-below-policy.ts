import { byHand } from '../../../orders/change.js';
import { certificateSteps, problemOf, waivable } from './certificate-sight.js';

/** Key length or signature hash is outside what the policy allows. */
export const keyBelowPolicy = waivable({
  id: 'key-below-policy',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 4',
  title: 'The key does not fit the security policy',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'key-below-policy'),
  meaning: ({ problem, side }) => `The certificate of ${side.owner} is not good enough for the policy: ${problem.says}`,
  remedies: ({ problem, side }) => [
    byHand({
      title: `Create a new certificate that fits ${problem.policy}`,
      target: side.owner,
      restart: true,
      undo: 'Restore the old one.',
    }),
  ],
});
