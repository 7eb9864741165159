import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** Messages are signed and not encrypted, and the link writes or carries a password. */
export const signOnly = cause({
  id: 'sign-only',
  steps: ['policy'],
  clause: 'Part 4 §7.20',
  title: 'The link is signed but not encrypted',
  severity: 'weak',
  test({ facts, choice, subject: { link } }) {
    const listing = facts.latest('endpoints');
    const writes = link.needs.some((item) => item.uses.includes('write'));
    const password = link.identity.kind === 'user';
    return listing && choice?.chosen?.securityMode === 'Sign' && (writes || password)
      ? { because: [listing], writes }
      : null;
  },
  meaning: ({ writes }) =>
    writes
      ? 'Everyone on the way can read along, and the link writes.'
      : 'Everyone on the way can read along, and the link signs in with a password.',
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: `Use SignAndEncrypt with ${server.name}`,
      target: server.name,
      before: 'Sign',
      after: 'SignAndEncrypt',
      restart: true,
    }),
  ],
});
