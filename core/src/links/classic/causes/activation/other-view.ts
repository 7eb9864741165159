import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { hasCode } from '../classic-sight.js';

const [notRegistered, programUnknown] = [0x80040154, 0x800401f3];

/** The class is not found, and the export has it in one of the registry’s two views alone. */
export const otherView = cause({
  id: 'other-view',
  steps: ['class', 'activation'],
  clause: 'MS-DCOM 3.1.2.5.2.3.3',
  title: 'It is registered for programs of the other kind alone',
  severity: 'fails',
  explains: ['class-unknown', 'program-unknown'],
  test({ facts }, step) {
    const seen = step === 'class' ? facts.latest('classic-class') : facts.latest('classic-activation');
    const rights = facts.latest('classic-rights');
    const [view, other] = rights?.views ?? [];
    if (!seen || !hasCode(seen.failure, notRegistered, programUnknown)) return null;
    return rights && view !== undefined && other === undefined ? { because: [seen, rights], view } : null;
  },
  meaning: ({ view }, { subject: { server, serverMachine } }) =>
    `By its export, ${serverMachine.name} has the class of ${server.name} in the registry’s view of ${view} bits alone, and COM looked for it in the other one.`,
  remedies: ({ view }, { subject: { server } }) => [
    byHand({
      title: 'Register the class in both views, as the server’s maker says',
      target: server.name,
      before: `in the view of ${view} bits`,
      after: 'in both views, with the same AppID',
      undo: 'Remove the registration that was added.',
    }),
  ],
});
