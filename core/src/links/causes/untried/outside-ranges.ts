import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { byNumber, listed } from '../../wording.js';

/** An address lies outside the ranges that may be dialled. */
export const outsideRanges = cause({
  id: 'outside-ranges',
  steps: ['reach', 'endpoints'],
  clause: 'The plant’s own rule',
  title: 'The address may not be dialled',
  severity: 'weak',
  test({ facts }, step) {
    const purpose = step === 'reach' ? 'link' : 'advertised';
    const [first, ...rest] = facts
      .all('not-tried')
      .filter((fact) => fact.reason === 'outside the declared ranges' && fact.purpose === purpose);
    return first ? { because: [first, ...rest], addresses: [first, ...rest].map(({ what }) => what) } : null;
  },
  meaning: ({ addresses }, { subject: { server } }) =>
    `${byNumber(addresses.length, `${listed(addresses)} is outside the address ranges that the plant has declared, so it was not dialled.`, `${listed(addresses)} are outside the address ranges that the plant has declared, so they were not dialled.`)} Either the range is missing in Settings, or the name of ${server.name} leads elsewhere than it should.`,
  remedies: ({ addresses }) => [
    byHand({
      title: `Declare a range with ${listed(addresses)} in Settings, if it belongs to the plant`,
      target: 'declared address ranges, in Settings',
      before: 'not declared',
      after: 'declared',
      undo: 'Remove the range.',
    }),
  ],
});
