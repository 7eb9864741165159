import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';
import { endsAtOnce, isServedFrom } from '../out-of-reach.js';

const serverDeviceBusy = 6;

/** The device takes no further connection, or says that it is busy. */
export const deviceBusy = cause({
  id: 'device-busy',
  steps: ['device-reach', 'device-answers', 'register'],
  clause: 'Modbus Messaging on TCP/IP §4.2.2',
  title: 'The device is busy',
  severity: 'fails',
  explains: ['register-refused', 'item-bad', 'item-quality'],
  test({ facts }, step) {
    if (step === 'device-reach') {
      const reset = facts.all('field-reach').find((fact) => fact.outcome === 'reset' && !isServedFrom(facts, fact));
      return reset ? { because: [reset], device: reset.device, isSaid: false } : null;
    }
    const asked = facts.all('field-answer');
    const found =
      step === 'register'
        ? asked.find(({ outcome, code }) => outcome === 'exception' && code === serverDeviceBusy)
        : asked.find((fact) => endsAtOnce(fact) && !isServedFrom(facts, fact));
    return found ? { because: [found], device: found.device, isSaid: step === 'register' } : null;
  },
  meaning: ({ device, isSaid }, { subject: { server } }) =>
    isSaid
      ? `${device} says that it is busy with another request.`
      : `${device} takes the connection and ends it at once, without an answer. Many devices take one connection only, and ${server.name} or somebody else has it.`,
  remedies: ({ device }, { subject: { server } }) => [
    byHand({
      title: `Find out who holds the connection to ${device}, and end what is not needed`,
      target: device,
      undo: 'Connect again.',
    }),
    byHand({
      title: `Let ${server.name} end its connection between two polls, or ask less often`,
      target: server.name,
      undo: 'Set the old poll rate again.',
    }),
  ],
});
