import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { isOneDigitOff } from '../../../plant/nearness.js';
import { listed } from '../../wording.js';

/** The name resolves to an address of another machine, or to none of this machine's. */
export const nameElsewhere = cause({
  id: 'name-elsewhere',
  steps: ['name'],
  clause: 'Part 6 §7.1',
  title: 'The name leads to another machine',
  severity: 'fails',
  test({ facts, subject: { serverMachine, machines } }) {
    const resolution = facts.all('name-resolution').findLast((fact) => fact.purpose === 'link');
    // The client dials the entrance of a tunnel, wherever that stands.
    if (facts.latest('tunnel')) return null;
    if (!resolution || resolution.addresses.length === 0 || serverMachine.addresses.length === 0) return null;
    if (resolution.addresses.some((address) => serverMachine.addresses.includes(address))) return null;
    const other = machines.find((machine) =>
      machine.addresses.some((address) => resolution.addresses.includes(address)),
    );
    const mistyped = resolution.addresses.find((address) =>
      serverMachine.addresses.some((known) => isOneDigitOff(address, known)),
    );
    return { because: [resolution], resolution, other: other ?? null, mistyped: mistyped ?? null };
  },
  meaning({ resolution, other, mistyped }, { subject: { serverMachine } }) {
    const where = other ? `to ${other.name}` : 'to no machine that the plant knows';
    const hint = mistyped ? ` It is one digit off ${listed(serverMachine.addresses)}.` : '';
    return `${resolution.host} leads ${where} (${listed(resolution.addresses)}), not to ${serverMachine.name} (${listed(serverMachine.addresses)}).${hint}`;
  },
  remedies: ({ resolution }, { subject: { serverMachine } }) => [
    byHand({
      title: `Ask which is right, and correct the record of ${resolution.host}`,
      target: resolution.means === 'literal' ? 'the endpoint URL' : 'the plant’s name server',
      before: listed(resolution.addresses),
      after: listed(serverMachine.addresses),
      undo: 'Set the old record again.',
    }),
    byHand({
      title: `Or correct the addresses of ${serverMachine.name} in the plant`,
      target: serverMachine.name,
      before: listed(serverMachine.addresses),
      after: listed(resolution.addresses),
    }),
  ],
});
