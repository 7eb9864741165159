import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { listed } from '../../../wording.js';
import { isNeededFor } from '../../read-step.js';

/** The server gives an item other rights than the link needs. */
export const itemRights = cause({
  id: 'item-rights',
  steps: ['read', 'write'],
  clause: 'Data Access 6.7.5',
  title: 'The item may not be used this way',
  severity: 'fails',
  test(sight, step) {
    const read = sight.facts.latest('classic-read');
    const use = step === 'write' ? 'write' : 'read';
    const denied = (read?.items ?? []).filter(
      ({ path, mayRead, mayWrite }) =>
        isNeededFor(sight, path, use) && (use === 'write' ? mayWrite : mayRead) === false,
    );
    return read && denied.length > 0 ? { because: [read], paths: denied.map(({ path }) => path), use } : null;
  },
  meaning: ({ paths, use }, { subject: { server } }) =>
    `This link must ${use} ${listed(paths)}, and ${server.name} says that nobody may.${use === 'write' ? ' Nothing was written.' : ''}`,
  remedies: ({ paths, use }, { subject: { server } }) => [
    byHand({
      title: `Let ${listed(paths)} be ${use === 'write' ? 'written' : 'read'} in the server’s project`,
      target: server.name,
      before: 'not allowed',
      after: 'allowed, for these items only',
      restart: true,
    }),
  ],
});
