import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import { listed } from '../../wording.js';
import { spanOf } from '../../../time.js';

/** Reading works, and no notification comes. */
export const watchSilent = cause({
  id: 'watch-silent',
  steps: ['watch'],
  clause: 'Part 4 §5.14.5',
  title: 'Watching stays silent',
  severity: 'fails',
  test({ facts }) {
    const [first, ...rest] = facts
      .all('item-watched')
      .filter((fact) => fact.code !== 'Good' || fact.firstNotificationMs === null);
    return first ? { because: [first, ...rest], silent: [first, ...rest], first } : null;
  },
  meaning({ silent, first }) {
    const what = listed(silent.map((fact) => fact.path));
    if (first.code !== 'Good') return `${what} can be read and not watched. ${explainedStatusCode(first.code)}`;
    return first.keepAlives > 0
      ? `${what}: the subscription lives (${first.keepAlives} keep-alives) and brings no value: publishing or sampling is disabled on the server.`
      : `${what}: within ${spanOf(first.waitedMs)} neither a value nor a keep-alive came: the way back is blocked, or the server’s publishing has stopped.`;
  },
  remedies: (_, { subject: { server } }) => [
    byHand({ title: 'Check whether publishing and sampling are enabled on the server', target: server.name }),
    byHand({
      title: 'Check whether something on the way ends long-waiting requests',
      target: 'the network',
      undo: 'Nothing to undo.',
    }),
  ],
});
