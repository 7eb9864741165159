import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';

/** Writing was accepted, and another value stands there afterwards. */
export const writeAltered = cause({
  id: 'write-altered',
  steps: ['write'],
  clause: 'Part 4 §5.11.4',
  title: 'What is written does not stay',
  severity: 'weak',
  test({ facts }) {
    const [first, ...rest] = facts.all('item-written').filter(({ outcome }) => outcome === 'other value');
    return first ? { because: [first, ...rest], paths: [first, ...rest].map(({ path }) => path), first } : null;
  },
  meaning: ({ paths, first }) =>
    `${listed(paths)} was written with ${first.before ?? 'nothing'} and shows ${first.after ?? 'nothing'} right after: something else sets it too, it changes by itself, or the server accepts what it then does not use.`,
  remedies: ({ paths }, { subject: { server } }) => [
    byHand({
      title: `Find out what else sets ${listed(paths)}`,
      target: server.name,
      undo: 'Nothing to undo.',
    }),
  ],
});
