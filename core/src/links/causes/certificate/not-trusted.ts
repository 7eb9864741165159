import { commonName } from '../../../trust/certificate.js';
import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import type { Remedy } from '../../../orders/change.js';
import { certificateSteps, listRemedy, problemOf } from './certificate-sight.js';

/** Neither the certificate nor an issuer of its chain is in the trusted list. */
export const notTrusted = cause({
  id: 'not-trusted',
  steps: certificateSteps,
  clause: 'Part 4 §6.1.3, step 5',
  title: 'The certificate is not trusted',
  severity: 'fails',
  explains: ['channel-refused'],
  test: (sight, step) => problemOf(sight, step, 'not-trusted'),
  meaning: ({ problem, side }) =>
    `${side.judge} does not trust the certificate of ${side.owner}${commonName(problem.subject) === side.owner ? '' : ` (${commonName(problem.subject)})`}: neither it nor one of its issuers is in the trusted list.`,
  remedies({ problem, side }, sight) {
    const { link, client, server } = sight.subject;
    const what = {
      target: `trusted list of ${side.judge}`,
      before: 'not there',
      restart: false,
      undo: 'Remove it from the list again.',
    };
    const { thumbprint } = problem;
    const leaf: Remedy = !thumbprint
      ? byHand({ ...what, title: 'Put the certificate into the trusted list', after: 'trusted' })
      : side.of === 'server'
        ? {
            ...what,
            title: 'Check the certificate, then trust it',
            after: `${thumbprint} trusted`,
            change: { kind: 'trust-server-certificate', linkId: link.id, clientId: client.id, thumbprint },
          }
        : {
            ...what,
            title: `Put the certificate ${thumbprint} into the trusted list`,
            after: 'trusted',
            change: { kind: 'accept-client-certificate', linkId: link.id, serverId: server.id, thumbprint },
          };
    const issuer = listRemedy(
      side,
      sight,
      { what: 'trust-issuer', subject: problem.issuer, keyId: null },
      {
        title: `Or trust the issuer ${commonName(problem.issuer)}, and with it all that it signed`,
        before: what.before,
        after: 'issuer trusted',
        undo: what.undo,
      },
    );
    return problem.selfIssued ? [leaf] : [leaf, issuer];
  },
});
