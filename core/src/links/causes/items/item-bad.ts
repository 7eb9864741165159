import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import { listed } from '../../wording.js';

const denied = ['BadUserAccessDenied', 'BadNotReadable'];

/** The value has a bad or uncertain status. */
export const itemBad = cause({
  id: 'item-bad',
  steps: ['read'],
  clause: 'Part 4 §7.11; Part 8 §6.3',
  title: 'The value is not good',
  severity: 'weak',
  explains: ['item-stale'],
  test({ facts }) {
    const [first, ...rest] = facts
      .all('item-read')
      .filter((fact) => !fact.code.startsWith('Good') && !denied.includes(fact.code));
    return first ? { because: [first, ...rest], bad: [first, ...rest], code: first.code } : null;
  },
  severityOf: ({ bad }) => (bad.some((fact) => fact.code.startsWith('Bad')) ? 'fails' : 'weak'),
  meaning: ({ bad, code }) =>
    `${listed(bad.map((fact) => fact.path))} arrives with a status that is not good. ${explainedStatusCode(code)}`,
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: `Check the device behind ${server.name}; OPC itself works`,
      target: server.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
