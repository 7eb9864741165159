import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';

/** The server called back, under an account whose password is not known here. */
export const wayBackUnproven = cause({
  id: 'way-back-unproven',
  steps: ['watch'],
  clause: 'MS-NLMP 3.2.5.1.2',
  title: 'The call back came, and could not be proved here',
  severity: 'weak',
  test({ facts }) {
    const watch = facts.latest('classic-watch');
    const [call] = watch?.unproven ?? [];
    return watch && call && watch.calls.length === 0 ? { because: [watch], call } : null;
  },
  meaning: ({ call }, { subject: { server, clientMachine } }) =>
    `${server.name} calls back from ${call.from} as “${call.account}”: the way is open. Its calls are signed by a password that is not known here, so that they could not be taken; whether ${clientMachine.name} knows the account is not proved.`,
  remedies: ({ call }, { subject: { clientMachine } }) => [
    byHand({
      title: `See that “${call.account}” is an account of ${clientMachine.name}, with the same password`,
      target: clientMachine.name,
      before: 'not proved',
      after: 'the same name and password on both machines',
    }),
  ],
});
