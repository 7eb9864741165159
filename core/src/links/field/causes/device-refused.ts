import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';
import { isServedFrom } from '../out-of-reach.js';

/** The device’s machine is there, and nothing listens at the port. */
export const deviceRefused = cause({
  id: 'device-refused',
  steps: ['device-reach'],
  clause: 'Modbus Messaging on TCP/IP §4.3.1',
  title: 'The device refuses the port',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const refused = facts.all('field-reach').find((fact) => fact.outcome === 'refused' && !isServedFrom(facts, fact));
    return refused ? { because: [refused], reach: refused } : null;
  },
  meaning: ({ reach: { device, port } }) =>
    `${device} is there and refuses port ${port}: its Modbus service is switched off, or listens at another port.`,
  remedies: ({ reach: { device, port } }) => [
    byHand({
      title: `Switch the Modbus service on, at port ${port}`,
      target: device,
      before: 'not listening',
      after: `listening at port ${port}`,
      undo: 'Switch it off again.',
    }),
  ],
});
