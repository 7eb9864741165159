import { cause } from '../../cause.js';

/** The link signs in with a password, and none is kept. */
export const passwordNotKept = cause({
  id: 'password-not-kept',
  steps: ['identity'],
  clause: 'Part 4 §5.7.3',
  title: 'No password is stored for this link',
  severity: 'fails',
  test({ facts, subject: { link } }) {
    const session = facts.latest('session');
    if (link.identity.kind !== 'user' || session?.outcome !== 'withheld' || session.reason !== 'no password kept')
      return null;
    return { because: [session], userName: link.identity.userName };
  },
  meaning: ({ userName }) => `The link signs in as “${userName}”, and no password was ever given for it.`,
  remedies: ({ userName }, { subject: { link } }) => [
    {
      title: 'Type the password',
      target: link.name,
      before: 'none',
      after: 'kept encrypted',
      change: { kind: 'set-password', linkId: link.id, userName },
      restart: false,
      undo: 'Remove the password.',
    },
  ],
});
