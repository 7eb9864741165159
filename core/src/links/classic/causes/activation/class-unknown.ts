import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { hasCode } from '../classic-sight.js';

const notRegistered = 0x80040154;

/** The class is not registered on the machine, or only for programs of the other kind. */
export const classUnknown = cause({
  id: 'class-unknown',
  steps: ['activation'],
  clause: 'MS-DCOM 3.1.2.5.2.3.3',
  title: 'The class is not registered there',
  severity: 'fails',
  test({ facts }) {
    const made = facts.latest('classic-activation');
    return made && hasCode(made.failure, notRegistered) ? { because: [made] } : null;
  },
  meaning: (_, { subject: { server, serverMachine } }) =>
    `${serverMachine.name} does not know the class of ${server.name}: it was never registered there, or only in the view of the other programs (32 or 64 bit).`,
  remedies: (_, { subject: { link, server } }) => [
    byHand({
      title: 'Register the server on its machine, as its maker says',
      target: server.name,
      before: 'not registered',
      after: 'registered, in the view that COM looks into',
      undo: 'Remove its registration.',
    }),
    byHand({
      title: 'Or correct the class in the link',
      target: link.name,
      before: link.endpointUrl,
      after: 'the right class',
    }),
  ],
});
