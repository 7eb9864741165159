import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** CreateSession's server signature does not verify. */
export const serverSignatureWrong = cause({
  id: 'server-signature-wrong',
  steps: ['identity'],
  clause: 'Part 4 §5.7.2',
  title: 'The server’s signature is wrong',
  severity: 'fails',
  test({ facts }) {
    const session = facts.latest('session');
    return session?.outcome === 'refused' &&
      session.code === 'BadApplicationSignatureInvalid' &&
      session.during === 'CreateSession'
      ? { because: [session] }
      : null;
  },
  isGrave: () => true,
  meaning: (_, { subject: { server } }) =>
    `The answer to CreateSession was not signed with the key of ${server.name}’s certificate. Stop: somebody may be intercepting the connection.`,
  remedies: (_, { subject: { server, serverMachine } }) => [
    byHand({
      title: `Compare the certificate on ${serverMachine.name} itself with the one seen over the network`,
      target: server.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
