import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';
import { counted } from '../../wording.js';

const dayMs = 86_400_000;

/** The user certificate has few days left. */
export const userCertificateEndsSoon = cause({
  id: 'user-certificate-ends-soon',
  steps: ['identity'],
  clause: 'Part 4 §7.40.5',
  title: 'The user certificate expires soon',
  severity: 'weak',
  test({ facts, at, rules }) {
    const shown = facts.latest('user-certificate');
    if (!shown) return null;
    const { notAfter } = shown.certificate;
    const daysLeft = Math.floor((Date.parse(notAfter) - Date.parse(at)) / dayMs);
    return daysLeft >= 0 && daysLeft < rules.expiresSoonDays
      ? { because: [shown], name: shown.name, notAfter, daysLeft }
      : null;
  },
  meaning: ({ name, notAfter, daysLeft }) =>
    `The user certificate “${name}” is valid until ${dayOf(notAfter)}: ${counted(daysLeft, 'day')} more. After that the link is not let in.`,
  remedies: ({ name, notAfter }, { subject: { server } }) => [
    byHand({
      title: `Renew the user certificate “${name}” in time: let ${server.name} trust the new one first, then store it here`,
      target: name,
      before: `valid until ${dayOf(notAfter)}`,
      after: 'renewed',
    }),
  ],
});
