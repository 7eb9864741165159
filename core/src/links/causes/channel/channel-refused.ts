import { cause } from '../../cause.js';
import type { Sight } from '../../cause.js';
import type { Fact } from '../../facts.js';
import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';
import { meaningOfStatusCode } from '../../../ua/status-codes.js';
import { sayProblem } from '../../../trust/validation/problem.js';

/** What a refusal can be, with the facts that speak for it. */
interface Possibility {
  readonly says: string;
  readonly because: readonly Fact[];
}

/** OpenSecureChannel was refused, or the connection was closed on it. */
export const channelRefused = cause({
  id: 'channel-refused',
  steps: ['secure-channel'],
  clause: 'Part 4 §6.1.3, §5.6.2',
  title: 'The server refuses the secure channel',
  severity: 'fails',
  test(sight) {
    const channel = sight.facts.latest('channel');
    if (!channel || channel.outcome === 'open') return null;
    const ranked = possibilities(sight, channel.outcome === 'refused' ? channel.code : null);
    const spoken = new Set(ranked.flatMap(({ because }) => because));
    return { because: [channel, ...spoken], channel, ranked };
  },
  meaning({ channel, ranked }, { subject: { client, server } }) {
    const code =
      channel.outcome === 'refused' ? meaningOfStatusCode(channel.code) : 'It closed the connection without a reason.';
    const list = ranked.map(({ says }, index) => `(${index + 1}) ${says}`).join(' ');
    return `${server.name} will not open a channel for ${client.name}. ${code} The likeliest reasons first: ${list}`;
  },
  remedies: (_, { subject: { client, server } }) => [
    byHand({
      title: `Check the rejected list of ${server.name}, and trust the certificate of ${client.name} if it is there`,
      target: server.name,
      before: 'unknown',
      after: 'trusted',
      undo: 'Remove it from the trusted list again.',
    }),
    byHand({ title: 'Compare the clocks of both machines', target: server.name, undo: 'Nothing to undo.' }),
  ],
});

/** What it can be, ranked by the facts at hand: what was seen before what is only usual. */
function possibilities({ facts, subject: { client, server } }: Sight, code: string | null): readonly Possibility[] {
  const ranked: Possibility[] = [];
  if (code === 'BadSecurityPolicyRejected' || code === 'BadSecurityModeRejected')
    ranked.push({ says: `${server.name} no longer accepts this policy or mode, although it lists it.`, because: [] });
  const set = facts.all('listed-certificate').find(({ list }) => list === 'rejected');
  if (set)
    ranked.push({
      says: `the certificate of ${client.name} is in its rejected list${set.since ? ` since ${dayOf(set.since)} at the latest` : ''}.`,
      because: [set],
    });
  const validated = facts.all('certificate-validation').findLast(({ of }) => of === 'client');
  const problem = validated?.validation.status === 'Good' ? undefined : validated?.validation.problems[0];
  if (validated && problem)
    ranked.push({
      says: `against its lists as they are known the certificate fails: ${sayProblem(problem)}`,
      because: [validated],
    });
  const made = facts.latest('change-made');
  if (made) ranked.push({ says: `a change of its lists is not in force yet.`, because: [made] });
  if (!validated) {
    const unread = facts.latest('lists-unread');
    ranked.push({
      says: unread
        ? `it does not trust the certificate of ${client.name}; its lists could not be read to see (${unread.reason.replace(/\.$/, '')}).`
        : `it does not trust the certificate of ${client.name}; its lists are not known here.`,
      because: unread ? [unread] : [],
    });
  }
  ranked.push({ says: 'the clocks of the two machines are too far apart.', because: [] });
  if (validated && !problem)
    ranked.push({
      says: 'its lists are not as they were last read: known as they are, the certificate passes.',
      because: [validated],
    });
  return ranked;
}
