import { byHand } from '../../../orders/change.js';
import { certificateSteps, problemOf, waivable } from './certificate-sight.js';

/** The certificate, or an issuer's, may not be used for this. */
export const usageWrong = waivable({
  id: 'usage-wrong',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 9; Part 6 §6.2.2',
  title: 'The certificate may not be used for this',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'usage-wrong'),
  meaning: ({ problem, side }) => `The certificate of ${side.owner} may not be used here: ${problem.says}`,
  remedies: ({ problem, side }) => [
    byHand({
      title: problem.ofIssuer
        ? 'Have it signed by a real authority'
        : 'Re-issue it with the key usages that OPC UA asks for',
      target: side.owner,
      restart: true,
      undo: 'Restore the old one.',
    }),
  ],
});
