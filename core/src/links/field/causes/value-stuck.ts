import { byHand } from '../../../orders/change.js';
import { spanOf } from '../../../time.js';
import { cause } from '../../cause.js';

/** Fewer checks, or a shorter time, may just have been quiet. */
const [fewestChecks, shortestMs] = [3, 10 * 60_000];

/** The register says the same for so long that no measurement would. */
export const valueStuck = cause({
  id: 'value-stuck',
  steps: ['origin-value'],
  clause: 'NAMUR NE 107',
  title: 'The value is stuck',
  severity: 'weak',
  test({ facts, at }) {
    for (const unmoved of facts.all('field-unmoved')) {
      const origin = facts.all('field-origin').find(({ path }) => path === unmoved.path);
      const forMs = Date.parse(at) - Date.parse(unmoved.since);
      // A switch may well stay as it is.
      if (!origin || origin.form.type === 'bool' || origin.form.type === 'text') continue;
      if (unmoved.checks >= fewestChecks && forMs >= shortestMs) return { because: [unmoved, origin], origin, forMs };
    }
    return null;
  },
  meaning: ({ origin, forMs }) =>
    `The register of ${origin.path} at ${origin.device ?? origin.deviceId} has said exactly the same for ${spanOf(forMs)}: a measurement always moves a little, so the sensor is stuck, or the device holds its last value.`,
  remedies: ({ origin }) => [
    byHand({
      title: 'Look at the sensor and its wiring, and at what the device’s own display shows',
      target: origin.device ?? origin.deviceId,
      undo: 'Nothing to undo.',
    }),
  ],
});
