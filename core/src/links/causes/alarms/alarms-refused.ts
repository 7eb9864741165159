import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { sayIdentity } from '../../../plant/signing-in.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import { listed } from '../../wording.js';

/** The server does not let events be listened to. */
export const alarmsRefused = cause({
  id: 'alarms-refused',
  steps: ['alarms'],
  clause: 'Part 3 §5.5.1, Part 4 §5.13.2',
  title: 'Events can’t be listened to',
  severity: 'fails',
  test({ facts }) {
    const [first, ...rest] = facts
      .all('item-alarms')
      .filter(({ code, sendsEvents, events }) => code !== 'Good' || (sendsEvents === false && events === 0));
    return first ? { because: [first, ...rest], paths: [first, ...rest].map(({ path }) => path), first } : null;
  },
  meaning({ paths, first }, { subject: { link } }) {
    const who = sayIdentity(link.identity);
    const why =
      first.code === 'BadUserAccessDenied'
        ? `${listed(paths)} sends no events to ${who}.`
        : `${listed(paths)} is no source of events (its EventNotifier does not have SubscribeToEvents), or the server sends none.`;
    return first.code === 'Good' ? why : `${why} ${explainedStatusCode(first.code)}`;
  },
  remedies: ({ paths, first }, { subject: { server, link } }) => [
    first.code === 'BadUserAccessDenied'
      ? byHand({
          title: `Give the link’s user the permission ReceiveEvents on ${listed(paths)}`,
          target: server.name,
          before: 'not allowed',
          after: 'ReceiveEvents allowed',
        })
      : byHand({
          title: 'Name a node that sends events, such as Server',
          target: link.name,
          before: listed(paths),
          after: 'a node whose EventNotifier has SubscribeToEvents',
        }),
  ],
});
