import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { isBelow, isDenied } from '../classic-sight.js';

/** Activation is refused, and the level is one that hardened machines refuse. */
export const levelTooLow = cause({
  id: 'level-too-low',
  steps: ['activation'],
  clause: 'MS-DCOM 3.1.2.5.2.3.2',
  title: 'The level is too low for a hardened machine',
  severity: 'fails',
  explains: ['launch-refused'],
  test({ facts }) {
    const made = facts.latest('classic-activation');
    if (!made || !isDenied(made.failure) || !isBelow(made.level, 'integrity')) return null;
    const rights = facts.latest('classic-rights');
    const isHardened = rights?.isHardened ?? null;
    return { because: rights && isHardened !== null ? [made, rights] : [made], level: made.level, isHardened };
  },
  meaning: ({ level, isHardened }, { subject: { serverMachine, clientMachine } }) =>
    `${serverMachine.name} refuses to start the server for a call at level ${level}. ${hardening(isHardened)} Its event log then has 10036, and that of ${clientMachine.name} 10037 or 10038.`,
  remedies: ({ level }, { subject: { client, clientMachine } }) => [
    byHand({
      title: 'Raise the level at the client, for its program or by default; never lower the server',
      target: `${client.name} on ${clientMachine.name}`,
      before: `level ${level}`,
      after: 'level integrity',
      restart: true,
      undo: 'Set the old level again, and start the client anew.',
    }),
  ],
});

const hardening = (isHardened: boolean | null): string =>
  isHardened === true
    ? 'Its export says that it refuses activation below packet integrity, whatever the permissions say.'
    : isHardened === false
      ? 'Its export says that this is switched off, and machines with the updates of 2023 refuse activation below packet integrity all the same.'
      : 'Since 2023 machines refuse activation below packet integrity, whatever the permissions say.';
