import { cause } from '../../cause.js';
import { tokenTypeOf } from '../../../entry/choose-endpoint.js';
import { byHand } from '../../../orders/change.js';
import { tokenWords } from '../../../ua/user-tokens.js';
import { listed } from '../../wording.js';

/** The plant does not accept that somebody signs in as this link does. */
export const tokenFloor = cause({
  id: 'token-floor',
  steps: ['identity'],
  clause: 'Part 2 §6.2',
  title: 'The plant does not accept this kind of user',
  severity: 'fails',
  explains: ['token-not-offered'],
  test({ facts, choice, subject }) {
    const said = facts.latest('entry-floor');
    const token = tokenTypeOf(subject.link.identity);
    return said && choice?.chosen && !said.floor.tokens.includes(token)
      ? { because: [said], token: tokenWords[token], accepted: said.floor.tokens.map((one) => tokenWords[one]) }
      : null;
  },
  meaning: ({ token, accepted }, { subject: { link } }) =>
    `${link.name} comes with ${token}; the plant accepts ${listed(accepted) || 'nobody'}. No session was tried.`,
  remedies: ({ token, accepted }, { subject: { link } }) => [
    byHand({
      title: 'Give the link an identity that the plant accepts',
      target: link.name,
      before: token,
      after: listed(accepted) || 'none',
    }),
    byHand({
      title: 'Or add an exception for it on the page Entry, with a reason and an end',
      target: link.name,
      before: `accepted: ${listed(accepted) || 'nobody'}`,
      after: `${token} until a day`,
      undo: 'End the exception.',
    }),
  ],
});
