import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { spanOf } from '../../../time.js';

/** The two clocks differ. */
export const clockApart = cause({
  id: 'clock-apart',
  steps: ['secure-channel'],
  clause: 'Part 4 §6.1.3; Part 6 §6.7',
  title: 'The clocks are apart',
  severity: 'weak',
  test({ facts, rules }) {
    const session = facts.latest('session');
    if (session?.outcome !== 'active' || session.clockApartMs === null) return null;
    return Math.abs(session.clockApartMs) > rules.clockApartMs
      ? { because: [session], apartMs: session.clockApartMs }
      : null;
  },
  severityOf: ({ apartMs }, { rules }) => (Math.abs(apartMs) > rules.clockToleranceMs ? 'fails' : 'weak'),
  meaning: ({ apartMs }, { subject: { server } }) =>
    [
      apartMs > 0
        ? `The clock of ${server.name} is ${spanOf(apartMs)} ahead of ours.`
        : `The clock of ${server.name} is ${spanOf(apartMs)} behind ours.`,
      'Timestamps can’t be compared, and certificates may seem expired or not yet valid.',
    ].join(' '),
  remedies: (_, { subject: { serverMachine } }) => [
    byHand({
      title: 'Find out which of the two clocks is wrong, and give it the plant’s time source',
      target: serverMachine.name,
    }),
  ],
});
