import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { counted, listed } from '../../wording.js';

/** A needed item isn't found. */
export const itemMissing = cause({
  id: 'item-missing',
  steps: ['browse'],
  clause: 'Part 4 §5.9.4',
  title: 'A needed item is not there',
  severity: 'fails',
  test({ facts }) {
    const hidden = new Set(facts.all('item-seen-by-other').map(({ path }) => path));
    const [first, ...rest] = facts
      .all('item-found')
      .filter((fact) => fact.outcome === 'missing' && !hidden.has(fact.path));
    return first ? { because: [first, ...rest], missing: [first, ...rest] } : null;
  },
  meaning({ missing }, { subject: { server } }) {
    const near = missing.flatMap((fact) => (fact.outcome === 'missing' && fact.nearest ? [fact.nearest] : []));
    const hint = near.length > 0 ? ` The nearest that is there: ${listed(near)}.` : '';
    return `${listed(missing.map((fact) => fact.path))} can’t be found on ${server.name}: ${counted(missing.length, 'item')} most likely not exposed to OPC in the server’s project, or named otherwise.${hint}`;
  },
  remedies: ({ missing }, { subject: { link, server } }) => [
    byHand({
      title: 'Expose the item in the server’s project',
      target: server.name,
      before: 'not exposed',
      after: listed(missing.map((fact) => fact.path)),
      restart: true,
    }),
    byHand({
      title: 'Or correct the path that the link needs',
      target: link.name,
      before: listed(missing.map((fact) => fact.path)),
      after: 'the right path',
    }),
  ],
});
