import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';

/** Nobody says who calls, and the machine lets that in. */
export const signsInAsNobody = cause({
  id: 'signs-in-as-nobody',
  steps: ['sign-in'],
  clause: 'MS-NLMP 3.2.5.1.2',
  title: 'The client calls as nobody',
  severity: 'weak',
  test({ facts }) {
    const signIn = facts.latest('classic-sign-in');
    return signIn?.outcome === 'let in' && signIn.userName === null ? { because: [signIn] } : null;
  },
  isGrave: () => true,
  meaning: (_, { subject: { clientMachine, serverMachine } }) =>
    `${clientMachine.name} calls without saying who it is, and ${serverMachine.name} lets that in: whoever reaches the port may do the same.`,
  remedies: (_, { subject: { client, link } }) => [
    byHand({
      title: 'Let the client run under an account of its own, and the link sign in with it',
      target: `${client.name}; ${link.name}`,
      before: 'nobody',
      after: 'an account that both machines know',
      restart: true,
    }),
  ],
});
