import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { sayIdentity } from '../../../plant/signing-in.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import { listed } from '../../wording.js';

/** The item is there, and this user may not read it. */
export const itemDenied = cause({
  id: 'item-denied',
  steps: ['read'],
  clause: 'Part 3 §5.6.2',
  title: 'The item may not be read',
  severity: 'fails',
  test({ facts }) {
    const [first, ...rest] = facts
      .all('item-read')
      .filter((fact) => ['BadUserAccessDenied', 'BadNotReadable'].includes(fact.code));
    return first ? { because: [first, ...rest], denied: [first, ...rest] as const, code: first.code } : null;
  },
  meaning: ({ denied, code }, { subject: { link } }) =>
    `${listed(denied.map((fact) => fact.path))} is there, and ${sayIdentity(link.identity)} may not read it. ${explainedStatusCode(code)}`,
  remedies: ({ denied }, { subject: { link, server } }) => [
    byHand({
      title: `Give ${sayIdentity(link.identity)} a role with the permission Read on the item`,
      target: server.name,
      before: `allowed: ${listed(denied[0].userAccessLevel) || 'nothing'}`,
      after: 'CurrentRead',
    }),
  ],
});
