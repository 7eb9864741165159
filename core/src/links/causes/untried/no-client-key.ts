import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The channel is secured, and no certificate with its key is kept for this client. */
export const noClientKey = cause({
  id: 'no-client-key',
  steps: ['secure-channel'],
  clause: 'Part 4 §5.6.2',
  title: 'No key is stored for this client',
  severity: 'weak',
  test({ facts }) {
    const stop = facts.all('not-tried').find(({ reason }) => reason === 'no client key');
    return stop ? { because: [stop] } : null;
  },
  meaning: (_, { subject: { client } }) =>
    `The channel was not tried: no certificate with its private key is stored for ${client.name}, and a secured channel can only be opened as somebody.`,
  remedies: (_, { subject: { client } }) => [
    byHand({
      title: `Give ${client.name} its certificate and key in Settings`,
      target: `${client.name}, in Settings`,
      before: 'none kept',
      after: 'kept, encrypted',
      undo: 'Give it another one.',
    }),
  ],
});
