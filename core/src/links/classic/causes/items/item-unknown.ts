import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { counted, listed } from '../../../wording.js';

/** A needed item is not among those that the server shows. */
export const itemUnknown = cause({
  id: 'item-unknown',
  steps: ['browse'],
  clause: 'Data Access 4.4.5.3',
  title: 'A needed item is not there',
  severity: 'fails',
  test({ facts }) {
    const browsed = facts.latest('classic-browse');
    return browsed && browsed.missing.length > 0 ? { because: [browsed], missing: browsed.missing } : null;
  },
  meaning({ missing }, { subject: { server } }) {
    const near = missing.flatMap(({ nearest }) => nearest ?? []);
    const hint = near.length > 0 ? ` The nearest that is there: ${listed(near)}.` : '';
    return `${listed(missing.map(({ path }) => path))} can’t be found on ${server.name}: ${counted(missing.length, 'item')} most likely not exposed to OPC in the server’s project, or named otherwise.${hint}`;
  },
  remedies: ({ missing }, { subject: { link, server } }) => [
    byHand({
      title: 'Expose the item in the server’s project',
      target: server.name,
      before: 'not exposed',
      after: listed(missing.map(({ path }) => path)),
      restart: true,
    }),
    byHand({
      title: 'Or correct the item that the link needs',
      target: link.name,
      before: listed(missing.map(({ path }) => path)),
      after: 'the right name',
    }),
  ],
});
