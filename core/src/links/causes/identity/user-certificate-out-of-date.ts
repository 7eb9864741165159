import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';

/** The user certificate is not valid any more, or not yet. */
export const userCertificateOutOfDate = cause({
  id: 'user-certificate-out-of-date',
  steps: ['identity'],
  clause: 'Part 4 §7.40.5',
  title: 'The user certificate is out of date',
  severity: 'fails',
  explains: ['user-refused'],
  test({ facts, at }) {
    const shown = facts.latest('user-certificate');
    if (!shown) return null;
    const { notBefore, notAfter } = shown.certificate;
    const isEarly = Date.parse(notBefore) > Date.parse(at);
    return isEarly || Date.parse(notAfter) < Date.parse(at)
      ? { because: [shown], name: shown.name, notBefore, notAfter, isEarly }
      : null;
  },
  severityOf: (_, { facts }) => (facts.latest('session')?.outcome === 'active' ? 'weak' : 'fails'),
  meaning({ name, notBefore, notAfter, isEarly }, { facts, subject: { server } }) {
    const state = isEarly ? `is valid only from ${dayOf(notBefore)}` : `expired on ${dayOf(notAfter)}`;
    return facts.latest('session')?.outcome === 'active'
      ? `The user certificate “${name}” ${state}, and ${server.name} lets it in all the same.`
      : `The user certificate “${name}” ${state}.`;
  },
  remedies: ({ name, notBefore, notAfter }, { subject: { server } }) => [
    byHand({
      title: `Renew the user certificate “${name}”: let ${server.name} trust the new one first, then store it here`,
      target: name,
      before: `valid from ${dayOf(notBefore)} to ${dayOf(notAfter)}`,
      after: 'renewed',
    }),
  ],
});
