import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The check was to dial from the client machine’s own address, and this computer does not have it. */
export const nearAddressMissing = cause({
  id: 'near-address-missing',
  steps: ['reach'],
  clause: 'The plant’s own rule',
  title: 'This computer can’t dial as the client’s machine',
  severity: 'weak',
  test({ facts }) {
    const stop = facts.all('not-tried').find(({ reason }) => reason === 'no such near address');
    return stop ? { because: [stop], address: stop.what } : null;
  },
  meaning: ({ address }, { subject: { clientMachine } }) =>
    `The address was not dialled: the check is set to dial from ${address}, the address of ${clientMachine.name}, and this computer does not have it.`,
  remedies: () => [
    byHand({
      title: 'Switch off “Dial from the client machine’s address” in Settings',
      target: 'Settings',
      before: 'on',
      after: 'off: checks are dialled from this computer’s own address',
      undo: 'Switch it on again.',
    }),
  ],
});
