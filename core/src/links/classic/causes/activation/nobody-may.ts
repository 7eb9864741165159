import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { dayOf } from '../../../../time.js';
import { isDenied } from '../classic-sight.js';

/** The server is refused, and its permission gives the right to nobody at all. */
export const nobodyMay = cause({
  id: 'nobody-may',
  steps: ['activation', 'access'],
  clause: 'MS-DTYP 2.5.3.2, MS-DCOM 2.2.28.2.1',
  title: 'Nobody has this right',
  severity: 'fails',
  explains: ['launch-refused', 'access-refused'],
  test({ facts }, step) {
    const seen = step === 'access' ? facts.latest('classic-access') : facts.latest('classic-activation');
    const rights = facts.latest('classic-rights');
    const isOf = (right: string): boolean => (step === 'access') === right.startsWith('access');
    const right = rights?.nobodyHas?.find(isOf);
    return seen && isDenied(seen.failure) && rights && right !== undefined
      ? { because: [seen, rights], right, takenAt: rights.takenAt }
      : null;
  },
  meaning: ({ right, takenAt }, { subject: { server } }) =>
    `By the export of ${dayOf(takenAt)}, nobody has ${right} with ${server.name}, not even administrators: the list is empty, or gives it from the same machine alone.`,
  remedies: ({ right }, { subject: { server } }) => [
    byHand({
      title: 'Give it to the accounts that links need: the page of the machine under DCOM has the file for it',
      target: `${right.startsWith('access') ? 'access' : 'launch'} permission of ${server.name}`,
      before: 'nobody',
      after: 'administrators, and the accounts of its links',
      restart: true,
    }),
  ],
});
