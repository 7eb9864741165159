import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';
import { listed } from '../../wording.js';

/** The attributes allow writing, and the server refused it when it was tried. */
export const writeRefused = cause({
  id: 'write-refused',
  steps: ['write'],
  clause: 'Part 4 §5.11.4',
  title: 'Writing is refused',
  severity: 'fails',
  explains: ['write-denied'],
  test({ facts }) {
    const [first, ...rest] = facts.all('item-written').filter(({ outcome }) => outcome === 'refused');
    return first ? { because: [first, ...rest], paths: [first, ...rest].map(({ path }) => path), first } : null;
  },
  meaning: ({ paths, first }, { subject: { server } }) =>
    `${server.name} refused to write ${listed(paths)} with the value that was there already. ${explainedStatusCode(first.code)}`,
  remedies: ({ paths, first }, { subject: { server } }) => [
    byHand({
      title: `Check why ${server.name} refuses ${listed(paths)}`,
      target: server.name,
      before: `AccessLevel reports that it may be written; writing gives ${first.code}`,
      after: 'it is written, or AccessLevel says that it can’t be',
      undo: 'Nothing to undo.',
    }),
  ],
});
