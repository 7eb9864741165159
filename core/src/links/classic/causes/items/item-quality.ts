import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { listed } from '../../../wording.js';
import { isGoodQuality } from '../../quality.js';

/** A value comes, and its quality is not good. */
export const itemQuality = cause({
  id: 'item-quality',
  steps: ['read'],
  clause: 'Data Access 6.8',
  title: 'A value is not good',
  severity: 'fails',
  test({ facts }) {
    const read = facts.latest('classic-read');
    const poor = (read?.items ?? []).filter(
      ({ code, quality }) => code === 0 && quality !== null && !isGoodQuality(quality),
    );
    if (!read || poor.length === 0) return null;
    return { because: [read], poor, isBad: poor.some(({ quality }) => ((quality ?? 0) & 0xc0) !== 0x40) };
  },
  severityOf: ({ isBad }) => (isBad ? 'fails' : 'weak'),
  meaning: ({ poor }, { subject: { server } }) =>
    `${server.name} lets ${listed(poor.map(({ path, qualitySays }) => `${path} be read, and says of it: ${qualitySays ?? ''}`))}. What is wrong lies behind the server, at the device or on the way to it.`,
  remedies: ({ poor }, { subject: { server } }) => [
    byHand({
      title: `See why ${server.name} has no good value of ${listed(poor.map(({ path }) => path))}`,
      target: 'the device behind the server',
      undo: 'Nothing to undo.',
    }),
  ],
});
