import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';

/** An answer came that is cut off, too long or too slow. */
export const answerBroken = cause({
  id: 'answer-broken',
  steps: ['device-answers'],
  clause: 'Modbus Application Protocol §4.2',
  title: 'The device’s answer is broken',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const broken = facts
      .all('field-answer')
      .find(
        ({ outcome, received }) =>
          outcome === 'malformed' || (received > 0 && (outcome === 'silent' || outcome === 'closed')),
      );
    return broken ? { because: [broken], asked: broken } : null;
  },
  meaning({ asked: { device, outcome, detail, received } }) {
    if (outcome === 'malformed') return `${device} answers wrongly: ${detail ?? ''}.`;
    return outcome === 'closed'
      ? `${device} begins an answer and ends the connection in the midst of it, after ${received} octets.`
      : `${device} begins an answer and does not end it in time; ${received} octets came.`;
  },
  remedies: ({ asked: { device } }) => [
    byHand({
      title: 'Look for a gateway on the way that is overloaded, and for a newer version of the device’s own program',
      target: device,
      undo: 'Nothing to undo.',
    }),
  ],
});
