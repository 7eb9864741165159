import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { isDenied, sayCaller } from '../classic-sight.js';

/** Whoever comes over the network is a guest there. */
export const guestOnly = cause({
  id: 'guest-only',
  steps: ['activation', 'access'],
  clause: 'MS-DTYP 2.5.2; the machine’s ForceGuest',
  title: 'Everybody from the network is a guest there',
  severity: 'fails',
  explains: ['launch-refused', 'access-refused'],
  test({ facts }, step) {
    const rights = facts.latest('classic-rights');
    const refused = facts.latest(step === 'activation' ? 'classic-activation' : 'classic-access');
    return refused && rights?.isGuestOnly === true && isDenied(refused.failure) ? { because: [refused, rights] } : null;
  },
  meaning: (_, sight) =>
    `${sight.subject.serverMachine.name} makes a guest of ${sayCaller(sight)}, and of everybody who comes over the network: its rights are those of Guest, whatever its own are.`,
  remedies: (_, { subject: { serverMachine } }) => [
    byHand({
      title: 'Let accounts from the network be themselves (ForceGuest)',
      target: serverMachine.name,
      before: '1, guest only',
      after: '0',
    }),
  ],
});
