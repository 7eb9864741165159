import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The server let an anonymous session in although this link doesn't need one. */
export const anonymousIn = cause({
  id: 'anonymous-in',
  steps: ['identity'],
  clause: 'Part 2 §6.2',
  title: 'Anonymous users are let in',
  severity: 'weak',
  test({ facts, subject: { link } }) {
    const tried = facts.latest('anonymous');
    if (!tried?.accepted || link.identity.kind === 'anonymous') return null;
    return { because: [tried], writable: tried.writable ?? null };
  },
  isGrave: ({ writable }) => writable !== null,
  meaning: ({ writable }, { subject: { server } }) =>
    `${server.name} also lets sessions in without a name: one was tried. This link does not need that.${writable ? ` Anybody without a name may write ${writable}.` : ''}`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: 'Close anonymous sessions, once no link uses them any more',
      target: server.name,
      before: 'anonymous sessions accepted',
      after: 'users only',
      restart: true,
    }),
  ],
});
