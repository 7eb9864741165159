import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';

/** The server calls back without saying who it is. */
export const calledBackAsNobody = cause({
  id: 'called-back-as-nobody',
  steps: ['watch'],
  clause: 'MS-RPCE 2.2.1.1.8',
  title: 'The server calls back as nobody',
  severity: 'weak',
  test({ facts }) {
    const watch = facts.latest('classic-watch');
    const call = watch?.calls.find(({ account }) => account === null);
    return watch && call ? { because: [watch], from: call.from } : null;
  },
  meaning: ({ from }, { subject: { server, clientMachine } }) =>
    `${server.name} calls back from ${from} without saying who it is. ${clientMachine.name} must let everybody call it for that, and whoever does can send it values.`,
  remedies: (_, { subject: { server, serverMachine, clientMachine } }) => [
    byHand({
      title: 'Let the server run under an account of its own, and call at level integrity',
      target: `${server.name} on ${serverMachine.name}`,
      before: 'nobody, at level none',
      after: `an account that ${clientMachine.name} knows`,
      restart: true,
    }),
  ],
});
