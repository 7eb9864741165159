import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The server offers an endpoint without security beside secured ones. */
export const unsecuredOffered = cause({
  id: 'unsecured-offered',
  steps: ['policy'],
  clause: 'Part 2 §6.2',
  title: 'The server also offers no security',
  severity: 'weak',
  test({ facts }) {
    const listing = facts.latest('endpoints');
    if (listing?.outcome !== 'listed') return null;
    const secured = listing.endpoints.some((endpoint) => endpoint.securityMode !== 'None');
    const open = listing.endpoints.find((endpoint) => endpoint.securityMode === 'None');
    return secured && open
      ? { because: [listing], anonymous: open.userTokens.some((token) => token.tokenType === 'Anonymous') }
      : null;
  },
  isGrave: ({ anonymous }) => anonymous,
  meaning: ({ anonymous }, { subject: { server } }) =>
    [
      anonymous
        ? `${server.name} also lets clients in without any security, and without a name.`
        : `${server.name} also lets clients in without any security.`,
      'This link does not need that.',
    ].join(' '),
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: 'Close the endpoint without security, once no link uses it any more',
      target: server.name,
      before: 'None offered',
      after: 'None closed',
      restart: true,
      undo: 'Offer it again.',
    }),
  ],
});
