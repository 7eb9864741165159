import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The server takes anonymous users although this link doesn't need them. */
export const anonymousIn = cause({
  id: 'anonymous-in',
  steps: ['identity'],
  clause: 'Part 2 §6.2',
  title: 'Anonymous users are let in',
  severity: 'weak',
  test({ facts, choice, subject: { link } }) {
    const listing = facts.latest('endpoints');
    if (!listing || link.identity.kind === 'anonymous') return null;
    const open = choice?.chosen?.userTokens.some((token) => token.tokenType === 'Anonymous');
    if (!open) return null;
    const writable = facts.all('item-read').find((fact) => fact.userAccessLevel.includes('CurrentWrite'));
    return { because: writable ? [listing, writable] : [listing], writable: writable?.path ?? null };
  },
  isGrave: ({ writable }) => writable !== null,
  meaning: ({ writable }, { subject: { server } }) =>
    `${server.name} also offers sessions without a name. This link does not need that.${writable ? ` ${writable} can be written by a signed-in user: look whether nameless ones can too.` : ''}`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: 'Close anonymous sessions, once no link uses them any more',
      target: server.name,
      before: 'anonymous offered',
      after: 'users only',
      restart: true,
    }),
  ],
});
