import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The link signs in with a user certificate, and none is kept under its name. */
export const userCertificateMissing = cause({
  id: 'user-certificate-missing',
  steps: ['identity'],
  clause: 'Part 4 §7.40.5',
  title: 'The user certificate is not stored',
  severity: 'fails',
  test({ facts }) {
    const session = facts.latest('session');
    return session?.outcome === 'withheld' && session.reason === 'no user certificate'
      ? { because: [session], name: session.name }
      : null;
  },
  meaning: ({ name }) =>
    `The link signs in with the user certificate “${name}”, and neither it nor its key was given here.`,
  remedies: ({ name }) => [
    byHand({
      title: `Give the certificate and key of “${name}”, on the page User certificates`,
      target: name,
      before: 'none',
      after: 'stored, the key encrypted',
    }),
  ],
});
