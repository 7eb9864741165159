import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { certificateSteps, problemOf } from './certificate-sight.js';

/** A signature in the chain doesn't fit its issuer's key. */
export const signatureWrong = cause({
  id: 'signature-wrong',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 3',
  title: 'A signature does not fit',
  severity: 'fails',
  explains: ['not-trusted', 'chain-incomplete', 'channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'signature-wrong'),
  isGrave: () => true,
  meaning: ({ problem, side }) =>
    problem.uncheckable
      ? `The certificate ${problem.subject} of ${side.owner} was signed with ${problem.uncheckable}. That is not checked here, and proves nothing about who made it.`
      : `The certificate ${problem.subject} of ${side.owner} names ${problem.issuer} as its issuer, and was not signed with that key. It was changed, or made to deceive.`,
  remedies: ({ side }) => [
    byHand({
      title: 'Never trust it; have a new certificate created',
      target: side.owner,
      restart: true,
      undo: 'Nothing to undo.',
    }),
  ],
});
