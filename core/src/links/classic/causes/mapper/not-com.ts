import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { sayFailure } from '../../say-fact.js';

/** Something answers at the mapper’s port, and it isn’t COM. */
export const notCom = cause({
  id: 'not-com',
  steps: ['mapper'],
  clause: 'MS-DCOM 3.1.2.5.1',
  title: 'COM does not answer there',
  severity: 'fails',
  test({ facts }) {
    const mapper = facts.latest('classic-mapper');
    return mapper?.failure ? { because: [mapper], failure: mapper.failure } : null;
  },
  meaning({ failure }, { subject: { serverMachine } }) {
    const speaksRpc = failure.by === 'way' && failure.kind === 'interface-unknown';
    return speaksRpc
      ? `RPC is spoken at that port of ${serverMachine.name}, but not by COM: it is another kind of machine, or another program has the port.`
      : `What answers at that port of ${serverMachine.name} is no mapper of COM: ${sayFailure(failure)}.`;
  },
  remedies: (_, { subject: { link, server } }) => [
    byHand({
      title: `Ask on which machine ${server.name} runs, and at which port its mapper listens`,
      target: link.name,
      before: link.endpointUrl,
      after: 'the right machine and port',
    }),
  ],
});
