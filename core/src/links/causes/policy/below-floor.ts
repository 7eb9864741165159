import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The link is signed only, and the plant demands encryption. */
export const belowFloor = cause({
  id: 'below-floor',
  steps: ['policy'],
  clause: 'Part 2 §6.2',
  title: 'The security is below what the plant requires',
  severity: 'fails',
  explains: ['sign-only'],
  test({ facts, choice, subject }) {
    const listing = facts.latest('endpoints');
    return listing && choice?.chosen?.securityMode === 'Sign' && subject.link.floor === 'encrypted'
      ? { because: [listing] }
      : null;
  },
  meaning: (_, { subject: { link } }) =>
    `The best endpoint in common is signed only, and the plant requires that ${link.name} is encrypted.`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: `Let ${server.name} offer SignAndEncrypt`,
      target: server.name,
      before: 'Sign',
      after: 'SignAndEncrypt',
      restart: true,
    }),
  ],
});
