import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { tokenTypeOf } from '../../../entry/choose-endpoint.js';
import { tokenWords } from '../../../ua/user-tokens.js';
import { listed } from '../../wording.js';

/** The identity's kind is not among the endpoint's user tokens. */
export const tokenNotOffered = cause({
  id: 'token-not-offered',
  steps: ['identity'],
  clause: 'Part 4 §7.41',
  title: 'The server does not accept this kind of user',
  severity: 'fails',
  explains: ['user-refused', 'session-refused'],
  test({ facts, choice, subject }) {
    const listing = facts.latest('endpoints');
    if (!listing || !choice?.chosen) return null;
    const wanted = tokenTypeOf(subject.link.identity);
    const offered = choice.chosen.userTokens.map((token) => token.tokenType);
    return offered.includes(wanted)
      ? null
      : {
          because: [listing],
          wanted: tokenWords[wanted],
          offered: [...new Set(offered.map((token) => tokenWords[token]))],
        };
  },
  meaning: ({ wanted, offered }, { subject: { server } }) =>
    `${server.name} takes ${listed(offered) || 'nobody'} here; this link comes with ${wanted}.`,
  remedies: ({ wanted, offered }, { subject: { link, server } }) => [
    byHand({
      title: 'Give the link an identity that the server accepts',
      target: link.name,
      before: wanted,
      after: listed(offered) || 'none',
    }),
    byHand({
      title: `Or let the server accept ${wanted}`,
      target: server.name,
      before: listed(offered) || 'none',
      after: wanted,
      restart: true,
    }),
  ],
});
