import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** Nothing proves that the one at which the user would sign in is the server of the plant. */
export const serverUnproved = cause({
  id: 'server-unproved',
  steps: ['identity'],
  clause: 'Part 4 §7.40.4',
  title: 'Nothing proves which server this is',
  severity: 'fails',
  test({ facts }) {
    const session = facts.latest('session');
    return session?.outcome === 'withheld' && session.reason === 'server not proved'
      ? { because: [session], says: session.says }
      : null;
  },
  meaning: ({ says }, { subject: { link, server } }) =>
    link.identity.kind === 'certificate'
      ? `The user certificate signs in at ${server.name} alone. ${says} It was not used.`
      : `The password is for ${server.name} alone. ${says} It was not sent.`,
  remedies: (_, { subject: { client, server } }) => [
    byHand({
      title: `Let ${server.name} show a certificate that ${client.name} trusts, at a secured endpoint`,
      target: server.name,
      before: 'not proved',
      after: 'proved by its certificate',
    }),
  ],
});
