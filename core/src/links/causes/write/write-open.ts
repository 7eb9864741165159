import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { sayIdentity } from '../../../plant/signing-in.js';
import { listed } from '../../wording.js';
import { writeAccesses, writtenPaths } from './write-sight.js';

/** An item can be written although the link does not need that. */
export const writeOpen = cause({
  id: 'write-open',
  steps: ['write'],
  clause: 'Part 2 §6.2, Part 3 §5.6.2',
  title: 'More can be written than is needed',
  severity: 'weak',
  test(sight) {
    const wanted = writtenPaths(sight);
    const open = writeAccesses(sight).filter(
      ({ rights, access }) => access.may === 'allowed' && !wanted.includes(rights.path),
    );
    const [first, ...rest] = open;
    if (!first) return null;
    const isAnonymous = sight.facts.latest('session')?.tokenType === 'Anonymous';
    return {
      because: [first.rights, ...rest.map(({ rights }) => rights)],
      paths: open.map(({ rights }) => rights.path),
      isAnonymous,
    };
  },
  isGrave: ({ isAnonymous }) => isAnonymous,
  meaning: ({ paths, isAnonymous }, { subject: { link } }) =>
    isAnonymous
      ? `Anonymous users may write ${listed(paths)}, and this link only reads there.`
      : `This link only reads ${listed(paths)}, and ${sayIdentity(link.identity)} may write there.`,
  remedies: ({ paths }, { subject: { link, server } }) => [
    byHand({
      title: `Remove the right to write ${listed(paths)} from ${sayIdentity(link.identity)}`,
      target: server.name,
      before: 'CurrentWrite allowed',
      after: 'CurrentRead only',
    }),
  ],
});
