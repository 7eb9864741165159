import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';
import { listed } from '../../wording.js';
import { isServedFrom } from '../out-of-reach.js';

/** The device does not answer at all, perhaps because a firewall stops it. */
export const deviceSilent = cause({
  id: 'device-silent',
  steps: ['device-reach'],
  clause: 'Modbus Messaging on TCP/IP §4.2.2',
  title: 'The device is silent',
  severity: 'fails',
  // A server that gets no answer gives a bad value.
  explains: ['item-bad', 'item-quality'],
  test({ facts }) {
    const silent = facts
      .all('field-reach')
      .find((fact) => ['silent', 'unreachable'].includes(fact.outcome) && !isServedFrom(facts, fact));
    return silent ? { because: [silent], reach: silent } : null;
  },
  meaning({ reach: { device, port, stoppedBy } }, { subject: { serverMachine } }) {
    const why =
      stoppedBy.length > 0
        ? `By the rules of ${listed(stoppedBy.map(({ name }) => name))}, what goes from ${serverMachine.name} to this port is dropped${stoppedBy[0]?.rule ? `: ${stoppedBy[0].rule}` : ''}.`
        : 'It is off, has another address, or something on the way drops what goes to this port.';
    return `${device} does not answer on port ${port}. ${why}`;
  },
  remedies: ({ reach: { device, port, stoppedBy } }, { subject: { serverMachine } }) => [
    ...stoppedBy.slice(0, 1).map(({ name }) =>
      byHand({
        title: `Open TCP port ${port} from ${serverMachine.name} to ${device}`,
        target: name,
        before: 'dropped',
        after: 'allowed, for this one pair and port only',
        undo: 'Remove the rule.',
      }),
    ),
    byHand({ title: `Check whether ${device} is switched on and connected`, target: device, undo: 'Nothing to undo.' }),
  ],
});
