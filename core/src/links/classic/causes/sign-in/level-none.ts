import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { callsOf, isBelow } from '../classic-sight.js';

/** What the client sends can be changed on the way. */
export const levelNone = cause({
  id: 'level-none',
  steps: ['sign-in'],
  clause: 'MS-RPCE 2.2.1.1.8',
  title: 'Calls are not protected on the way',
  severity: 'weak',
  test(sight) {
    const signIn = sight.facts.latest('classic-sign-in');
    return signIn?.outcome === 'let in' && isBelow(signIn.level, 'integrity') && signIn.level !== 'packet'
      ? { because: [signIn], level: signIn.level }
      : null;
  },
  isGrave: ({ level }) => level === 'none',
  meaning: ({ level }, { subject: { clientMachine, serverMachine } }) =>
    `${clientMachine.name} and ${serverMachine.name} let calls through at level ${level}: whoever is on the way can change them, and a machine that is hardened since 2023 refuses to start servers so.`,
  remedies: (_, sight) => [
    byHand({
      title: 'Raise the level of the client, for its program or by default',
      target: sight.subject.clientMachine.name,
      before: `level ${callsOf(sight).level}`,
      after: 'level integrity, or privacy',
      restart: true,
      undo: 'Set the old level again, and start the client anew.',
    }),
  ],
});
