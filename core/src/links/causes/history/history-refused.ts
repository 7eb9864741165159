import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { sayIdentity } from '../../../plant/signing-in.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import type { FactOf } from '../../facts.js';
import { listed } from '../../wording.js';

const notKept: ReadonlySet<string> = new Set([
  'BadHistoryOperationUnsupported',
  'BadHistoryOperationInvalid',
  'BadServiceUnsupported',
  'BadNotSupported',
  'BadNotImplemented',
]);

/** Some servers answer Good, and give nothing: that nothing may be read is told by the attributes alone. */
export const isWithout = ({ code, values, userAccessLevel }: FactOf<'item-history'>): boolean =>
  !code.startsWith('Bad') && values === 0 && userAccessLevel.length > 0 && !userAccessLevel.includes('HistoryRead');

/** Earlier values can’t be read. */
export const historyRefused = cause({
  id: 'history-refused',
  steps: ['history'],
  clause: 'Part 4 §5.11.3, Part 11 §6.5',
  title: 'The history can’t be read',
  severity: 'fails',
  test({ facts }) {
    const [first, ...rest] = facts.all('item-history').filter((fact) => fact.code.startsWith('Bad') || isWithout(fact));
    if (!first) return null;
    const why = isWithout(first)
      ? first.accessLevel.includes('HistoryRead')
        ? 'BadUserAccessDenied'
        : 'BadHistoryOperationUnsupported'
      : first.code;
    return {
      because: [first, ...rest],
      paths: [first, ...rest].map(({ path }) => path),
      why,
      isTold: why === first.code,
    };
  },
  meaning: ({ paths, why: code, isTold }, { subject: { server, link } }) => {
    const who = sayIdentity(link.identity);
    const why = notKept.has(code)
      ? `${server.name} keeps no history of ${listed(paths)}, or does not give it.`
      : code === 'BadUserAccessDenied'
        ? `${who} may not read the history of ${listed(paths)}.`
        : `The history of ${listed(paths)} can’t be read.`;
    const told = isTold ? explainedStatusCode(code) : 'Its AccessLevel has no HistoryRead, and no value came.';
    return `${why.charAt(0).toUpperCase()}${why.slice(1)} ${told}`;
  },
  remedies: ({ paths, why }, { subject: { server } }) => [
    byHand(
      notKept.has(why)
        ? {
            title: `Have ${server.name} keep the history of ${listed(paths)}`,
            target: server.name,
            before: 'not kept (Historizing)',
            after: 'kept',
          }
        : {
            title: `Give the link’s user the right to read the history of ${listed(paths)}`,
            target: server.name,
            before: 'HistoryRead not allowed',
            after: 'HistoryRead allowed',
          },
    ),
  ],
});
