import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';

/**
 * A change was made, and the facts still show the state before it: either nobody saw it in the lists yet, or the lists
 * accept the client as they were read, and the server still refuses it.
 */
export const needsRestart = cause({
  id: 'needs-restart',
  steps: ['secure-channel'],
  clause: 'Part 12 §7.10.9',
  title: 'A change is not in force yet',
  severity: 'fails',
  explains: ['channel-refused', 'not-trusted', 'lying-in-rejected'],
  test({ facts }) {
    const channel = facts.latest('channel');
    const made = facts.latest('change-made');
    if (!channel || channel.outcome === 'open' || !made) return null;
    if (!made.inLists) return { because: [made, channel], made };
    const validated = facts.all('certificate-validation').findLast(({ of }) => of === 'client');
    return validated?.validation.status === 'Good' ? { because: [made, validated, channel], made } : null;
  },
  meaning: ({ made }, { subject: { client, server } }) =>
    `${made.says} That was done on ${dayOf(made.since)} by ${made.by}, and ${server.name} still answers as before${made.inLists ? `, although its lists, as they are read, accept ${client.name}` : ''}: it was probably not restarted.`,
  remedies: (_, { subject: { server, serverMachine } }) => [
    byHand({
      title: `Restart ${server.name}, then check the link again`,
      target: `${server.name} on ${serverMachine.name}`,
      before: 'running with the lists that it read at its start',
      after: 'running with the lists as they are now',
      restart: true,
      undo: 'Nothing to undo.',
    }),
  ],
});
