import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';

/** The machine is there, and nothing listens at the mapper’s port. */
export const mapperRefused = cause({
  id: 'mapper-refused',
  steps: ['reach'],
  clause: 'MS-RPCE 2.1.1.1',
  title: 'The mapper’s port is refused',
  severity: 'fails',
  test({ facts }) {
    const [first, ...rest] = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link');
    if (!first || ![first, ...rest].every((fact) => fact.outcome === 'refused')) return null;
    return { because: [first, ...rest], port: first.port };
  },
  meaning: ({ port }, { subject: { serverMachine } }) =>
    `${serverMachine.name} is there and refuses port ${port}: no mapper of COM runs there, or a firewall of the machine itself refuses it.`,
  remedies: ({ port }, { subject: { server, serverMachine, clientMachine } }) => [
    byHand({
      title: `Let ${clientMachine.name} through to port ${port} in the machine’s own firewall`,
      target: serverMachine.name,
      before: 'refused',
      after: `open for ${clientMachine.addresses[0] ?? clientMachine.name}`,
    }),
    byHand({
      title: `Or correct the machine and the port by which the link leads to ${server.name}`,
      target: 'the link’s address',
      undo: 'Set the old address again.',
    }),
  ],
});
