import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { sayCode } from '../../../../dcom/codes.js';
import { listed } from '../../../wording.js';
import { sayFailure } from '../../say-fact.js';

const unknownItem = 0xc0040007;

/** An item is there, and can’t be added or read; or nothing can. */
export const itemUnread = cause({
  id: 'item-unread',
  steps: ['read'],
  clause: 'Data Access 4.5.2.1, 4.5.4.1',
  title: 'An item can’t be read',
  severity: 'fails',
  test({ facts }) {
    const read = facts.latest('classic-read');
    const missed = new Set(facts.latest('classic-browse')?.missing.map(({ path }) => path));
    const failed = (read?.items ?? []).filter(
      ({ path, code, mayRead }) => code !== 0 && mayRead !== false && !(code === unknownItem && missed.has(path)),
    );
    if (!read || (failed.length === 0 && !read.failure)) return null;
    return { because: [read], failed, failure: read.failure };
  },
  meaning: ({ failed, failure }, { subject: { server } }) =>
    failure
      ? `Nothing can be read from ${server.name}: ${sayFailure(failure)}.`
      : `${listed(failed.map(({ path, code }) => `${path} (${sayCode(code)})`))} can’t be read from ${server.name}.`,
  remedies: (_, { subject: { server, link } }) => [
    byHand({
      title: 'Look how the items are named and set up in the server’s project',
      target: server.name,
      undo: 'Nothing to undo.',
    }),
    byHand({ title: 'Or correct the items that the link needs', target: link.name }),
  ],
});
