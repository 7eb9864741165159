import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';
import { problemOf, waivable } from './certificate-sight.js';

/** No name in the server's certificate fits the host that was used. */
export const hostMismatch = waivable({
  id: 'host-mismatch',
  steps: ['server-certificate'],
  clause: 'Part 4 §6.1.3, step 7',
  title: 'The certificate was made for another host',
  severity: 'fails',
  test: (sight, step) => problemOf(sight, step, 'host-mismatch'),
  meaning: ({ problem, side }) =>
    `The link dials ${problem.used}, and the certificate of ${side.owner} was made for ${listed(problem.made) || 'no host at all'}.`,
  remedies: ({ problem, side }, { subject: { link } }) => [
    byHand({
      title: `Re-issue the certificate with ${problem.used} among its names`,
      target: side.owner,
      before: listed(problem.made) || 'no host',
      after: listed([...problem.made, problem.used]),
      restart: true,
      undo: 'Restore the old one.',
    }),
    ...(problem.made[0]
      ? [
          byHand({
            title: `Or dial the server as ${problem.made[0]}, where that name leads to it`,
            target: link.name,
            before: problem.used,
            after: problem.made[0],
          }),
        ]
      : []),
  ],
});
