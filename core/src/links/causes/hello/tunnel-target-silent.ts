import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The tunnel stands, and what its far end connects to does not answer. */
export const tunnelTargetSilent = cause({
  id: 'tunnel-target-silent',
  steps: ['hello'],
  clause: 'RFC 9113 §8.5',
  title: 'Behind the tunnel nothing answers',
  severity: 'fails',
  explains: ['not-ua'],
  test({ facts }) {
    const [tunnel, hello] = [facts.latest('tunnel'), facts.latest('hello')];
    const stands = tunnel?.ends.every(({ state, fault }) => state === 'joined' && fault === null);
    return tunnel && stands && hello && (hello.outcome === 'closed' || hello.outcome === 'silent')
      ? { because: [tunnel, hello], tunnel }
      : null;
  },
  meaning: ({ tunnel: { name, target } }, { subject: { server } }) =>
    `${name} stands. Its far end can’t connect to ${target.address} port ${target.port}, or nothing comes back from there: ${server.name} is not started, or listens elsewhere.`,
  remedies: ({ tunnel: { target } }, { subject: { server, serverMachine } }) => [
    byHand({
      title: `Start ${server.name}, or lead the tunnel to the port on which it listens`,
      target: serverMachine.name,
      before: `nothing answers at ${target.address} port ${target.port}`,
      after: 'listening',
      undo: 'Stop it again.',
    }),
  ],
});
