import { cause } from '../../cause.js';
import { seenThrough } from '../../passage-seen.js';
import { listed } from '../../wording.js';
import { byHand } from '../../../orders/change.js';

/** All firewalls that are known let the link through, and still nothing answers. */
export const stoppedElsewhere = cause({
  id: 'stopped-elsewhere',
  steps: ['passage'],
  clause: 'IEC 62443-3-2 ZCR 6',
  title: 'Nothing answers, although all known rules let it through',
  severity: 'weak',
  test(sight) {
    const isSilent = sight.facts
      .all('tcp-connect')
      .some(({ purpose, outcome }) => purpose === 'link' && (outcome === 'silent' || outcome === 'unreachable'));
    const fact = sight.facts
      .all('passage')
      .find(
        (each) =>
          (each.purpose === 'endpoint' || each.purpose === 'mapper') &&
          each.verdict === 'accept' &&
          each.firewalls.length > 0,
      );
    return isSilent && fact && seenThrough(sight, fact) === 'not through' ? { because: [fact], fact } : null;
  },
  meaning: ({ fact }, { subject: { serverMachine } }) =>
    `The rules of ${listed(fact.firewalls.map(({ name }) => name))} let it through, and ${serverMachine.name} does not answer: rules are out of date, the machine is off, or something stands in the way that the plant doesn’t know.`,
  remedies: ({ fact }) => [
    byHand({
      title: `Take the rules of ${listed(fact.firewalls.map(({ name }) => name))} again, and compare them`,
      target: fact.firewalls[0]?.name ?? '',
      undo: 'Nothing to undo.',
    }),
  ],
});
