import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';

/** No answer until the time-out. */
export const portSilent = cause({
  id: 'port-silent',
  steps: ['reach'],
  clause: 'Part 6 §7.2',
  title: 'The port is silent',
  severity: 'fails',
  test({ facts }) {
    const dialled = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link');
    if (dialled.some((fact) => fact.outcome === 'open')) return null;
    const [first, ...rest] = dialled.filter((fact) => fact.outcome === 'silent' || fact.outcome === 'unreachable');
    if (!first) return null;
    const neighbours = facts.all('tcp-connect').filter((fact) => fact.purpose === 'neighbour');
    const speaking = neighbours.filter((fact) => fact.outcome !== 'silent');
    return {
      because: [first, ...rest, ...speaking],
      port: first.port,
      speaking,
      /* What was recorded shows one port alone. */
      isRecorded: first.source === 'reported' && neighbours.length === 0,
    };
  },
  meaning({ port, speaking, isRecorded }, { subject: { clientMachine, serverMachine } }) {
    if (isRecorded)
      return `${serverMachine.name} did not answer ${clientMachine.name} on port ${port}: the machine was off, or a firewall between the two dropped it.`;
    const why =
      speaking.length > 0
        ? `Its port ${listed(speaking.map((fact) => String(fact.port)))} does speak, so the machine is on: something on the way, or on the machine, drops what goes to port ${port}.`
        : 'None of its other known ports speaks either: the machine is off, or a firewall between the two drops everything.';
    return `${serverMachine.name} does not answer on port ${port} when dialled as ${clientMachine.name} would. ${why}`;
  },
  remedies: ({ port }, { subject: { clientMachine, serverMachine } }) => [
    byHand({
      title: `Open TCP port ${port} from ${clientMachine.name} to ${serverMachine.name}`,
      target: `the firewall between ${clientMachine.name} and ${serverMachine.name}`,
      before: 'dropped',
      after: `allowed, for this one pair and port only`,
      undo: 'Remove the rule.',
    }),
    byHand({
      title: `Check whether ${serverMachine.name} is switched on`,
      target: serverMachine.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
