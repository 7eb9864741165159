import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';

/** The device is outside the ranges that may be dialled. */
export const deviceWithheld = cause({
  id: 'device-withheld',
  steps: ['device-reach'],
  clause: 'IEC 62443-3-3 SR 5.2',
  title: 'The device may not be dialled',
  severity: 'weak',
  test({ facts }) {
    const withheld = facts.all('field-reach').find(({ outcome }) => outcome === 'withheld');
    return withheld ? { because: [withheld], reach: withheld } : null;
  },
  meaning: ({ reach: { device, address } }) =>
    `${device} at ${address} is outside the address ranges that may be dialled, so nothing behind the server was looked at.`,
  remedies: ({ reach: { device, address } }) => [
    byHand({
      title: `Declare a range that holds ${address}, if ${device} may be dialled`,
      target: 'Settings',
      before: 'not declared',
      after: 'declared',
      undo: 'Remove the range again.',
    }),
  ],
});
