import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';

/** Something else answers at the port. */
export const notModbus = cause({
  id: 'not-modbus',
  steps: ['device-answers'],
  clause: 'Modbus Messaging on TCP/IP §3.1.3',
  title: 'It does not speak Modbus',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const foreign = facts.all('field-answer').find(({ outcome }) => outcome === 'foreign');
    return foreign ? { because: [foreign], device: foreign.device, why: foreign.detail ?? '' } : null;
  },
  meaning: ({ device, why }) =>
    `What answers at this port of ${device} does not speak Modbus: ${why}. It is another service, another machine has the address, or the device speaks Modbus over a serial line’s frames.`,
  remedies: ({ device }) => [
    byHand({ title: 'Compare address and port with the device’s papers', target: device, undo: 'Nothing to undo.' }),
  ],
});
