import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { certificateSteps, listRemedy, problemOf } from './certificate-sight.js';

/** Trust was meant and placed in the wrong list. */
export const wrongList = cause({
  id: 'wrong-list',
  steps: certificateSteps,
  clause: 'Part 12 §7.8.2',
  title: 'The certificate is in the wrong list',
  severity: 'fails',
  explains: ['not-trusted', 'channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'wrong-list'),
  meaning: ({ problem, side }) => `${side.judge} has the certificate in the wrong place. ${problem.says}`,
  remedies: ({ problem, side }, sight) => {
    const words = {
      title: `Move ${problem.subject} to the trusted list`,
      before: 'in the issuers list',
      after: 'in the trusted list',
      undo: 'Move it back.',
    };
    return [
      problem.thumbprint
        ? listRemedy(side, sight, { what: 'move-to-trusted', thumbprint: problem.thumbprint }, words)
        : byHand({ ...words, target: side.judge }),
    ];
  },
});
