import { sayMovedTarget, sayPasswordTarget } from '../../password-target.js';
import { cause } from '../../cause.js';

/** The kept password was given for another server, address or user than the link has now. */
export const passwordElsewhere = cause({
  id: 'password-elsewhere',
  steps: ['identity'],
  clause: 'Part 4 §7.40.4',
  title: 'The stored password belongs to another target',
  severity: 'fails',
  test({ facts }) {
    const session = facts.latest('session');
    return session?.outcome === 'withheld' && session.reason === 'kept for another target'
      ? { because: [session], keptFor: session.keptFor, wanted: session.wanted }
      : null;
  },
  meaning: ({ keptFor, wanted }) =>
    `The password of “${keptFor.userName}” was given for another target, and was not sent: ${sayMovedTarget(keptFor, wanted)}.`,
  remedies: ({ keptFor, wanted }, { subject: { link } }) => [
    {
      title: 'Send the stored password to the new target',
      target: link.name,
      before: sayPasswordTarget(keptFor),
      after: sayPasswordTarget(wanted),
      change: { kind: 'release-password', linkId: link.id, before: keptFor, after: wanted },
      restart: false,
      undo: 'Type another password, which belongs to the new target alone.',
    },
    {
      title: 'Type the password of the new target',
      target: link.name,
      before: 'the present password',
      after: 'another password, stored encrypted',
      change: { kind: 'set-password', linkId: link.id, userName: wanted.userName },
      restart: false,
      undo: 'Type the old password again.',
    },
  ],
});
