import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { sayIdentity } from '../../../plant/signing-in.js';
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
    return `${server.name} does not let ${sayIdentity(link.identity)} in.${unsaid[link.identity.kind]} ${explainedStatusCode(code)}${tries === 0 ? '' : sayPause(tries)}`;
  },
  remedies(_, { subject: { link, server }, facts }) {
    if (link.identity.kind === 'anonymous')
      return [
        byHand({
          title: 'Give the link a user of its own',
          target: link.name,
          before: 'anonymous',
          after: 'a user with a password',
        }),
      ];
    if (link.identity.kind === 'certificate') {
      const thumbprint = facts.latest('user-certificate')?.certificate.thumbprint;
      return [
        byHand({
          title: `Put ${sayIdentity(link.identity)}${thumbprint === undefined ? '' : ` (${thumbprint})`} into the list of user certificates that ${server.name} trusts`,
          target: server.name,
          before: 'not trusted as a user, perhaps',
          after: 'trusted as a user',
        }),
        byHand({
          title: `Check whether a role of ${server.name} names its thumbprint or its subject`,
          target: server.name,
        }),
      ];
    }
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

/** What the refusal leaves open. */
const unsaid = {
  anonymous: '',
  user: ' It does not say whether the name is unknown, the password wrong, or the right to sign in missing.',
  certificate:
    ' It does not say whether it trusts the certificate, whether its key or usage is not enough, or whether the right to sign in is missing. The certificates of users are in a list of their own, apart from those of applications.',
} as const;

const sayPause = (tries: number): string =>
  ` It was refused ${counted(tries, 'time')} in a row, and was not tried now, so that the account does not get locked. It is tried again after ${spanOf(pauseMs)}${tries < mostRefusals ? ', or as soon as the password is typed again' : ''}.`;
