import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';

/** The device that an origin names is not in the plant, or has neither a name that resolves nor an address. */
export const deviceUnknown = cause({
  id: 'device-unknown',
  steps: ['device-name'],
  clause: 'Modbus Messaging on TCP/IP §4.3',
  title: 'The device is unknown',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const absent = facts.all('field-origin').find(({ device }) => device === null);
    const nameless = facts.all('field-name').find(({ addresses }) => addresses.length === 0);
    if (absent)
      return {
        because: [absent],
        says: `The plant has no machine “${absent.deviceId}”, from which ${absent.path} is said to come.`,
        target: absent.path,
      };
    if (!nameless) return null;
    const says =
      nameless.host === null
        ? `${nameless.device} has neither a host name nor an address.`
        : `${nameless.host}, the name of ${nameless.device}, has no address: ${nameless.failure ?? 'nobody knows it.'}`;
    return { because: [nameless], says, target: nameless.device };
  },
  meaning: ({ says }) => says,
  remedies: ({ target }) => [
    byHand({
      title: 'Give the device its address in the plant, or correct the origin',
      target,
      undo: 'Set the old one again.',
    }),
  ],
});
