import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { listed } from '../../../wording.js';

/** Somebody else than the server called where it should. */
export const calledByStranger = cause({
  id: 'called-by-stranger',
  steps: ['watch'],
  clause: 'MS-DCOM 5.1',
  title: 'Somebody else called where the server should',
  severity: 'weak',
  test({ facts }) {
    const watch = facts.latest('classic-watch');
    return watch && watch.strangers.length > 0 ? { because: [watch], strangers: [...new Set(watch.strangers)] } : null;
  },
  meaning: ({ strangers }, { subject: { server } }) =>
    `${listed(strangers)} called where ${server.name} was to call back, and was refused: it is another card of the server’s machine that the plant does not know, an address translation on the way, or somebody who has no business there.`,
  remedies: ({ strangers }, { subject: { serverMachine } }) => [
    byHand({
      title: `Find out who ${listed(strangers)} is; if it is ${serverMachine.name}, add the address to the plant`,
      target: serverMachine.name,
      before: listed(serverMachine.addresses),
      after: listed([...serverMachine.addresses, ...strangers]),
    }),
  ],
});
