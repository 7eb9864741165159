import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { mostRefusals, pauseMs, refusedUserCodes } from '../../../entry/sign-in-tries.js';
import { spanOf } from '../../../time.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import { counted } from '../../wording.js';

/** The server does not accept the user. */
export const userRefused = cause({
  id: 'user-refused',
  steps: ['identity'],
  clause: 'Part 4 §5.7.3',
  title: 'The user is refused',
  severity: 'fails',
  test({ facts }) {
    const session = facts.latest('session');
    if (session?.outcome === 'refused' && refusedUserCodes.has(session.code))
      return { because: [session], code: session.code, tries: 0 };
    return session?.outcome === 'withheld' && session.reason === 'refused before'
      ? { because: [session], code: session.code, tries: session.refusals }
      : null;
  },
  meaning({ code, tries }, { subject: { link, server } }) {
    const who = link.identity.kind === 'user' ? `the user “${link.identity.userName}”` : 'an anonymous user';
    const why =
      link.identity.kind === 'user'
        ? ' It does not say whether the name is unknown, the password wrong, or the right to sign in missing.'
        : '';
    return `${server.name} does not let ${who} in.${why} ${explainedStatusCode(code)}${tries === 0 ? '' : sayPause(tries)}`;
  },
  remedies(_, { subject: { link, server } }) {
    if (link.identity.kind === 'anonymous')
      return [
        byHand({
          title: 'Give the link a user of its own',
          target: link.name,
          before: 'anonymous',
          after: 'a user with a password',
        }),
      ];
    return [
      {
        title: 'Type the password again',
        target: link.name,
        before: 'the present password',
        after: 'another password',
        change: { kind: 'set-password', linkId: link.id, userName: link.identity.userName },
        restart: false,
        undo: 'Type the old password again.',
      },
      byHand({
        title: `Check whether “${link.identity.userName}” exists on ${server.name}, and what it may do`,
        target: server.name,
      }),
    ];
  },
});

const sayPause = (tries: number): string =>
  ` It was refused ${counted(tries, 'time')} in a row, and was not tried now, so that the account does not get locked. It is tried again after ${spanOf(pauseMs)}${tries < mostRefusals ? ', or as soon as the password is typed again' : ''}.`;
