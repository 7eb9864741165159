import { exceptionWords, isAboutUnit } from '../../../field/modbus/exceptions.js';
import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';
import { sayPlace } from '../origin-sight.js';

/** The device answers with an exception. */
export const registerRefused = cause({
  id: 'register-refused',
  steps: ['register'],
  clause: 'Modbus Application Protocol §7',
  title: 'The device refuses the register',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const refused = facts
      .all('field-answer')
      .find(({ outcome, code }) => outcome === 'exception' && !isAboutUnit(code ?? 0));
    const origin = facts.all('field-origin').find(({ path }) => path === refused?.path);
    return refused && origin ? { because: [refused, origin], refused, origin } : null;
  },
  meaning({ refused: { device, code }, origin }) {
    const { name, means } = exceptionWords(code ?? 0);
    return `${device} refuses ${sayPlace(origin, origin.place)}, from which ${origin.path} is said to come, with exception ${code ?? 0} (${name}). ${means}`;
  },
  remedies: ({ refused: { device, code } }) => [
    byHand({ title: exceptionWords(code ?? 0).toDo, target: device, undo: 'Nothing to undo.' }),
  ],
});
