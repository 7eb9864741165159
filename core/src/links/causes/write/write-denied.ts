import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { sayIdentity } from '../../../plant/signing-in.js';
import { listed } from '../../wording.js';
import { writeAccesses, writtenPaths } from './write-sight.js';

/** The link must write an item, and its user may not. */
export const writeDenied = cause({
  id: 'write-denied',
  steps: ['write'],
  clause: 'Part 3 §5.6.2, §5.2.10',
  title: 'The item may not be written',
  severity: 'fails',
  test(sight) {
    const wanted = writtenPaths(sight);
    const denied = writeAccesses(sight).flatMap(({ rights, access }) =>
      access.may === 'denied' && wanted.includes(rights.path) ? [{ rights, access }] : [],
    );
    const [first, ...rest] = denied;
    return first ? { because: [first.rights, ...rest.map(({ rights }) => rights)], denied } : null;
  },
  meaning: ({ denied }, { subject: { link } }) =>
    `This link must write ${listed(denied.map(({ rights }) => rights.path))}, and ${sayIdentity(link.identity)} may not. ${denied.map(({ access }) => access.says).join(' ')} This is calculated from what the server tells; nothing was written.`,
  remedies: ({ denied }, { subject: { link, server } }) => [
    byHand({
      title: `Give ${sayIdentity(link.identity)} the right to write ${listed(denied.map(({ rights }) => rights.path))}`,
      target: server.name,
      before: `missing: ${listed([...new Set(denied.map(({ access }) => access.missing))])}`,
      after: 'allowed, for these items only',
    }),
  ],
});
