import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { dayOf } from '../../../../time.js';
import { listed } from '../../../wording.js';

/** Nearly everybody may launch the server, or call it, from another machine. */
export const everyoneMay = cause({
  id: 'everyone-may',
  steps: ['activation', 'access'],
  clause: 'MS-DCOM 2.2.28.2.1',
  title: 'Nearly everybody has this right',
  severity: 'weak',
  test({ facts }, step) {
    const rights = facts.latest('classic-rights');
    const isOf = (right: string): boolean => (step === 'access') === right.startsWith('access');
    const who = (rights?.wide ?? []).filter((one) => one.rights.some(isOf)).map(({ name }) => name);
    return rights && who.length > 0 ? { because: [rights], who, does: step === 'access' ? 'call' : 'launch' } : null;
  },
  isGrave: ({ who }) => who.some((name) => name === 'Everyone' || name === 'Anonymous Logon'),
  meaning: ({ who, does, because: [rights] }, { subject: { server } }) =>
    `By the export of ${rights.kind === 'classic-rights' ? dayOf(rights.takenAt) : ''}, ${listed(who)} may ${does} ${server.name} from other machines: far more people than links need.`,
  remedies: ({ who, does }, { subject: { server } }) => [
    byHand({
      title: 'Narrow it to the accounts that links need: the page of the machine under DCOM has the file for it',
      target: `${does === 'call' ? 'access' : 'launch'} permission of ${server.name}`,
      before: listed(who),
      after: 'the accounts of its links',
      restart: true,
    }),
  ],
});
