import { cause } from '../../cause.js';
import { dayOf } from '../../../time.js';

/** The server has put the client's certificate aside, and moving it is enough: where the chain is at fault, that is told instead. */
export const lyingInRejected = cause({
  id: 'lying-in-rejected',
  steps: ['client-certificate'],
  clause: 'Part 12 §7.10.9',
  title: 'The client’s certificate is in the server’s rejected list',
  severity: 'fails',
  explains: ['not-trusted', 'channel-refused'],
  test({ facts }) {
    const listings = facts.all('listed-certificate');
    const rejected = listings.find((fact) => fact.list === 'rejected');
    if (!rejected || listings.some((fact) => fact.list === 'trusted')) return null;
    if (facts.latest('channel')?.outcome === 'open') return null;
    const validation = facts.all('certificate-validation').findLast((fact) => fact.of === 'client')?.validation;
    const deeper = validation?.problems.some(({ kind, status }) => kind !== 'not-trusted' && status !== 'Good');
    return deeper ? null : { because: [rejected], rejected };
  },
  meaning: ({ rejected }, { subject: { client, server } }) =>
    `${server.name} does not know ${client.name} and has put its certificate aside${rejected.since ? `, first on ${dayOf(rejected.since)}` : ''}. It stays unnoticed in the rejected list.`,
  remedies: ({ rejected }, { subject: { link, server } }) => [
    {
      title: 'Check the certificate, then move it to the trusted list',
      target: `lists of ${server.name}`,
      before: 'in the rejected list',
      after: `${rejected.thumbprint} trusted`,
      change: {
        kind: 'accept-client-certificate',
        linkId: link.id,
        serverId: server.id,
        thumbprint: rejected.thumbprint,
      },
      restart: false,
      undo: 'Remove it from the trusted list again.',
    },
  ],
});
