import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';
import { certificateSteps, problemOf } from './certificate-sight.js';

/** The application URI in the certificate is not the application's. */
export const uriMismatch = cause({
  id: 'uri-mismatch',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 8',
  title: 'The certificate belongs to another application',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'uri-mismatch'),
  meaning: ({ problem, side }) =>
    `${side.owner} calls itself ${problem.expected}, and its certificate was made for ${listed(problem.found) || 'no application URI'}. This must never be waived.`,
  remedies: ({ problem, side }) => [
    byHand({
      title: 'Re-issue the certificate with the right application URI',
      target: side.owner,
      before: listed(problem.found) || 'none',
      after: problem.expected,
      restart: true,
      undo: 'Restore the old one.',
    }),
  ],
});
