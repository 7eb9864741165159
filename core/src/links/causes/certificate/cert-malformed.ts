import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { certificateSteps, problemOf } from './certificate-sight.js';

/** The certificate can't be read as one. */
export const certMalformed = cause({
  id: 'cert-malformed',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 1',
  title: 'The certificate is malformed',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'cert-malformed'),
  meaning: ({ problem, side }) => `The certificate of ${side.owner} can’t be read: ${problem.says}`,
  remedies: ({ side }) => [
    byHand({ title: 'Create a new certificate', target: side.owner, restart: true, undo: 'Restore the old one.' }),
  ],
});
