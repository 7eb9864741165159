import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';

/** Answers come to requests that nobody made here. */
export const otherTransaction = cause({
  id: 'other-transaction',
  steps: ['device-answers'],
  clause: 'Modbus Messaging on TCP/IP §4.4.2',
  title: 'The device answers another request',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const other = facts.all('field-answer').find(({ outcome }) => outcome === 'other-transaction');
    return other ? { because: [other], device: other.device } : null;
  },
  meaning: ({ device }, { subject: { server } }) =>
    `${device} answers with the number of another request. A gateway in front of it mixes up whose answer is whose: ${server.name} may show the value of another register.`,
  remedies: ({ device }) => [
    byHand({
      title: 'Look at the gateway in front of the device: let one client at a time ask it',
      target: device,
      undo: 'Let the others ask again.',
    }),
  ],
});
