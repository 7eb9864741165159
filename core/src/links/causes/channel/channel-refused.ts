import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';

/** OpenSecureChannel was refused, or the connection was closed on it. */
export const channelRefused = cause({
  id: 'channel-refused',
  steps: ['secure-channel'],
  clause: 'Part 4 §6.1.3, §5.6.2',
  title: 'The server refuses the secure channel',
  severity: 'fails',
  test({ facts }) {
    const channel = facts.latest('channel');
    if (!channel || channel.outcome === 'open') return null;
    const [listing] = facts.all('listed-certificate');
    return { because: listing ? [channel, listing] : [channel], channel };
  },
  meaning({ channel }, { subject: { client, server } }) {
    const code =
      channel.outcome === 'refused' ? explainedStatusCode(channel.code) : 'It closed the connection without a word.';
    return `${server.name} will not open a channel for ${client.name}. ${code} A server may say no more than this to someone whom it does not trust; most often it does not trust the client’s certificate.`;
  },
  remedies: (_, { subject: { client, server } }) => [
    byHand({
      title: `Look into the rejected list of ${server.name}, and trust the certificate of ${client.name} if it lies there`,
      target: server.name,
      before: 'unknown',
      after: 'trusted',
      undo: 'Take it out of the trusted list again.',
    }),
    byHand({ title: 'Compare the clocks of both machines', target: server.name, undo: 'Nothing to undo.' }),
  ],
});
