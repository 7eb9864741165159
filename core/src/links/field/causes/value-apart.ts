import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';
import { comparedOrigins, sayOrigin, sayValue } from '../origin-sight.js';

/** The values differ, and nothing near explains how. */
export const valueApart = cause({
  id: 'value-apart',
  steps: ['origin-value'],
  clause: 'Modbus Application Protocol §4.3',
  title: 'Server and device differ',
  severity: 'fails',
  test({ facts }) {
    for (const { origin, compared, comparison } of comparedOrigins(facts))
      if (comparison.outcome === 'differs' && !comparison.explained)
        return { because: [compared, origin], origin, comparison };
    return null;
  },
  meaning: ({ origin, comparison: { value, device } }, { subject: { server } }) =>
    `${origin.path} is ${sayValue(value)} at ${server.name} and ${sayValue(device)} at ${origin.device ?? origin.deviceId} (${sayOrigin(origin)}), and no register beside it explains the difference.`,
  remedies: ({ origin }, { subject: { server } }) => [
    byHand({
      title: `Search the register from which ${origin.path} comes, on this page`,
      target: origin.device ?? origin.deviceId,
      undo: 'Nothing to undo.',
    }),
    byHand({
      title: `Look at ${server.name} for what it makes of the value: a scale, a limit, a value that was set by hand`,
      target: server.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
