import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';

/** Nothing answers at the mapper’s port, neither yes nor no. */
export const mapperSilent = cause({
  id: 'mapper-silent',
  steps: ['reach'],
  clause: 'MS-RPCE 2.1.1.1',
  title: 'The mapper’s port does not answer',
  severity: 'fails',
  test({ facts }) {
    const dialled = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link');
    const [first, ...rest] = dialled.filter((fact) => fact.outcome === 'silent' || fact.outcome === 'unreachable');
    if (!first || dialled.some((fact) => fact.outcome === 'open')) return null;
    return { because: [first, ...rest], port: first.port };
  },
  meaning: ({ port }, { subject: { serverMachine } }) =>
    `Nothing answers at port ${port} of ${serverMachine.name}: the machine is off, or a firewall on the way drops what is sent to it.`,
  remedies: ({ port }, { subject: { serverMachine, clientMachine } }) => [
    byHand({ title: 'See whether the machine is on', target: serverMachine.name, undo: 'Nothing to undo.' }),
    byHand({
      title: `Open port ${port} on the way from ${clientMachine.name}`,
      target: 'the firewall between them',
      before: 'dropped',
      after: `${clientMachine.addresses[0] ?? clientMachine.name} → ${serverMachine.addresses[0] ?? serverMachine.name}, TCP ${port}`,
    }),
  ],
});
