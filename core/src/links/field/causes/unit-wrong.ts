import { isAboutUnit } from '../../../field/modbus/exceptions.js';
import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';

/** The device takes requests, and nobody has this unit. */
export const unitWrong = cause({
  id: 'unit-wrong',
  steps: ['device-answers'],
  clause: 'Modbus Messaging on TCP/IP §4.4.1.2',
  title: 'The unit does not answer',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const silent = facts
      .all('field-answer')
      .find(
        ({ outcome, received, code }) =>
          (outcome === 'silent' && received === 0) || (outcome === 'exception' && isAboutUnit(code ?? 0)),
      );
    if (!silent) return null;
    const answering = facts
      .all('field-answer')
      .filter(({ deviceId, outcome }) => deviceId === silent.deviceId && outcome === 'values');
    return {
      because: [silent, ...answering],
      asked: silent,
      answering: [...new Set(answering.map(({ unit }) => unit))],
    };
  },
  meaning({ asked: { device, unit, outcome }, answering }) {
    const said =
      outcome === 'exception'
        ? `A gateway answers in the name of ${device}: behind it, unit ${unit} does not answer.`
        : `${device} takes the connection, and unit ${unit} does not answer.`;
    return answering.length > 0
      ? `${said} Unit ${answering.join(', ')} of it does.`
      : `${said} The number of the unit is most likely wrong; a device that stands alone is often 1, 0 or 255.`;
  },
  remedies: ({ asked: { device, unit } }, { subject: { server } }) => [
    byHand({
      title: 'Look up the unit in the device’s papers, and set it at the server and in the origin',
      target: server.name,
      before: `unit ${unit} of ${device}`,
      after: 'the unit that answers',
      undo: `Set unit ${unit} again.`,
    }),
  ],
});
