import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import type { Fact } from '../../facts.js';
import { secretCover } from '../../../ua/user-tokens.js';

/** A password would cross the network without encryption. */
export const passwordInClear = cause({
  id: 'password-in-clear',
  steps: ['identity'],
  clause: 'Part 4 §7.40.4',
  title: 'The password would cross the network unencrypted',
  severity: 'fails',
  explains: ['user-refused', 'session-refused'],
  test({ facts, choice, subject }) {
    const listing = facts.latest('endpoints');
    if (!listing || subject.link.identity.kind !== 'user' || !choice?.chosen || !choice.token) return null;
    if (secretCover(choice.chosen, choice.token).by !== 'nothing') return null;
    const session: Fact | null = facts.latest('session');
    return { because: session ? [listing, session] : [listing] };
  },
  meaning: (_, { subject: { server } }) =>
    `Neither the channel nor the user token of ${server.name} encrypts the password: everyone on the way could read it. It was not sent.`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: `Let ${server.name} encrypt user tokens, or offer a secured endpoint`,
      target: server.name,
      before: 'password in clear',
      after: 'a policy on the user token, or SignAndEncrypt',
      restart: true,
    }),
  ],
});
