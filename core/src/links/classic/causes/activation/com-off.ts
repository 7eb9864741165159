import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { isDenied } from '../classic-sight.js';

/** The machine’s export says that DCOM is off. */
export const comOff = cause({
  id: 'com-off',
  steps: ['activation'],
  clause: 'MS-DCOM 3.1.2.1',
  title: 'DCOM is switched off',
  severity: 'fails',
  explains: ['launch-refused', 'level-too-low', 'guest-only'],
  test({ facts }) {
    const [made, rights] = [facts.latest('classic-activation'), facts.latest('classic-rights')];
    return made && rights?.isOn === false && isDenied(made.failure) ? { because: [made, rights] } : null;
  },
  meaning: (_, { subject: { serverMachine } }) =>
    `${serverMachine.name} refuses every activation from another machine: DCOM is switched off there, by its export.`,
  remedies: (_, { subject: { serverMachine } }) => [
    byHand({
      title: 'Switch DCOM on (EnableDCOM)',
      target: serverMachine.name,
      before: 'N',
      after: 'Y',
      restart: true,
    }),
  ],
});
