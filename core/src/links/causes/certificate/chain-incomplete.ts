import { cause } from '../../cause.js';
import { certificateSteps, listRemedy, problemOf } from './certificate-sight.js';

/** An issuer is missing. */
export const chainIncomplete = cause({
  id: 'chain-incomplete',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 2',
  title: 'An issuer’s certificate is missing',
  severity: 'fails',
  explains: ['not-trusted', 'crl-missing', 'crl-unreadable', 'channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'chain-incomplete'),
  meaning: ({ problem, side }) =>
    `${side.judge} can’t build the chain of ${side.owner}’s certificate: the issuer ${problem.missingIssuer}${problem.missingKeyId ? ` (key id ${problem.missingKeyId})` : ''} is in neither of its lists.${problem.namesake ? ` An authority of the same name is there (${problem.namesake}), with another key: the issuer was renewed, and this is the one from before or after.` : ''}`,
  remedies: ({ problem, side }, sight) => [
    listRemedy(
      side,
      sight,
      { what: 'supply-issuer', subject: problem.missingIssuer, keyId: problem.missingKeyId },
      {
        title: `Put the certificate of ${problem.missingIssuer} into the issuers list`,
        before: 'not there',
        after: 'in the issuers list, where it completes chains and is not trusted for itself',
        undo: 'Remove it again.',
      },
    ),
    listRemedy(
      side,
      sight,
      { what: 'trust-issuer', subject: problem.missingIssuer, keyId: problem.missingKeyId },
      {
        title: `Or trust ${problem.missingIssuer}, and with it all that it signed`,
        before: 'not there',
        after: 'in the trusted list',
        undo: 'Remove it again.',
      },
    ),
  ],
});
