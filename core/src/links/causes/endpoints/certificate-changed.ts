import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The server's certificate differs from the one that the check before saw. */
export const certificateChanged = cause({
  id: 'certificate-changed',
  steps: ['endpoints'],
  clause: 'Part 12 §7',
  title: 'The server has another certificate than before',
  severity: 'weak',
  test({ facts }) {
    const listing = facts.latest('endpoints');
    const earlier = facts.latest('earlier-server-certificate');
    if (listing?.outcome !== 'listed' || !earlier) return null;
    const now = listing.endpoints.find((endpoint) => endpoint.certificate)?.certificate;
    if (!now || now.thumbprint === earlier.certificate.thumbprint) return null;
    const before = earlier.certificate;
    const oddities = [
      ...(now.applicationUris[0] === before.applicationUris[0] ? [] : ['its application URI is another']),
      ...(now.issuer === before.issuer || (now.selfIssued && before.selfIssued) ? [] : ['its issuer is another']),
      ...(now.notBefore <= before.notAfter ? [] : ['its validity does not overlap with the old one’s']),
    ];
    return { because: [listing, earlier], now, before, oddities };
  },
  isGrave: ({ oddities }) => oddities.length > 0,
  meaning: ({ now, before, oddities }) =>
    oddities.length === 0
      ? `The server’s certificate was renewed in order: same application URI, same issuer, overlapping validity (${before.thumbprint} before, ${now.thumbprint} now).`
      : `The server’s certificate changed, and not in the way of a renewal: ${oddities.join('; ')} (${before.thumbprint} before, ${now.thumbprint} now). Ask before trusting it.`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: 'Ask the owner of the server whether the certificate was renewed',
      target: server.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
