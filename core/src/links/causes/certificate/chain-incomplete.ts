import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { certificateSteps, problemOf } from './certificate-sight.js';

/** An issuer is missing. */
export const chainIncomplete = cause({
  id: 'chain-incomplete',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 2',
  title: 'An issuer’s certificate is missing',
  severity: 'fails',
  explains: ['not-trusted', 'crl-missing', 'channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'chain-incomplete'),
  meaning: ({ problem, side }) =>
    `${side.judge} can’t build the chain of ${side.owner}’s certificate: the issuer ${problem.missingIssuer}${problem.missingKeyId ? ` (key id ${problem.missingKeyId})` : ''} is in neither of its lists.${problem.namesake ? ` An authority of the same name lies there (${problem.namesake}), with another key: the issuer was renewed, and this is the one from before or after.` : ''}`,
  remedies: ({ problem, side }) => [
    byHand({
      title: `Put the certificate of ${problem.missingIssuer} into the issuers list`,
      target: side.judge,
      before: 'not there',
      after: 'in the issuers list; in the trusted list where all that it signs is to be trusted',
      undo: 'Take it out again.',
    }),
  ],
});
