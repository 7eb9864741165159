import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { sayIdentity } from '../../../plant/signing-in.js';
import { dayOf } from '../../../time.js';
import { listed } from '../../wording.js';

/** A needed item isn’t found, and somebody else found it there: its branch is hidden from the link’s user. */
export const itemHidden = cause({
  id: 'item-hidden',
  steps: ['browse'],
  clause: 'Part 3 §5.2.9',
  title: 'A needed item is hidden from this user',
  severity: 'fails',
  test({ facts }) {
    const seen = new Map(facts.all('item-seen-by-other').map((fact) => [fact.path, fact]));
    const hidden = facts.all('item-found').flatMap((fact) => {
      const other = seen.get(fact.path);
      return fact.outcome === 'missing' && other ? [{ fact, other }] : [];
    });
    const [first, ...rest] = hidden;
    return first
      ? {
          because: [first.fact, first.other, ...rest.flatMap(({ fact, other }) => [fact, other])],
          paths: hidden.map(({ fact }) => fact.path),
          other: first.other,
        }
      : null;
  },
  meaning: ({ paths, other }, { subject: { link, server } }) =>
    `${other.as === '' ? 'An anonymous user' : `“${other.as}”`} found ${listed(paths)} on ${server.name} on ${dayOf(other.on)}, and ${sayIdentity(link.identity)} can’t see it: most likely none of its roles has the permission Browse there. It could also have been removed since.`,
  remedies: ({ paths, other }, { subject: { link, server } }) => [
    byHand({
      title: `Give ${sayIdentity(link.identity)} a role with the permissions Browse and Read on ${listed(paths)}`,
      target: server.name,
      before: 'not seen',
      after: 'seen and read',
    }),
    byHand({
      title: `Or let the link sign in as somebody who sees it, such as ${other.as === '' ? 'anonymously' : `“${other.as}”`}`,
      target: link.name,
      before: sayIdentity(link.identity),
      after: other.as === '' ? 'an anonymous user' : `“${other.as}”`,
    }),
  ],
});
