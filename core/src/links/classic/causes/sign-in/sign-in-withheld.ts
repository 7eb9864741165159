import { cause } from '../../../cause.js';
import type { Remedy } from '../../../../orders/change.js';
import { byHand } from '../../../../orders/change.js';
import { sayMovedTarget, sayPasswordTarget } from '../../../password-target.js';
import { dayOf } from '../../../../time.js';

/** The password was not sent, for a reason on this side. */
export const signInWithheld = cause({
  id: 'sign-in-withheld',
  steps: ['sign-in'],
  clause: 'The product’s own rule',
  title: 'The password was not sent',
  severity: 'fails',
  test({ facts, subject: { link } }) {
    const signIn = facts.latest('classic-sign-in');
    if (!signIn?.withheld || link.identity.kind !== 'user') return null;
    return { because: [signIn], withheld: signIn.withheld, userName: link.identity.userName };
  },
  meaning({ withheld, userName }) {
    switch (withheld.reason) {
      case 'no password kept':
        return `The link signs in as “${userName}”, and no password was ever given for it.`;
      case 'kept for another target':
        return `The password of “${withheld.keptFor.userName}” was given for another target, and was not sent: ${sayMovedTarget(withheld.keptFor, withheld.wanted)}.`;
      case 'refused before':
        return `“${userName}” was refused so often that another try could lock the account; it is tried again on ${dayOf(withheld.until)}, or when its password is typed again.`;
      default:
        return `“${userName}” was not signed in: ${withheld.reason}.`;
    }
  },
  remedies({ withheld, userName }, { subject: { link } }) {
    const type: Remedy = {
      title: 'Type the password',
      target: link.name,
      before: withheld.reason === 'no password kept' ? 'none' : 'the present password',
      after: 'kept encrypted',
      change: { kind: 'set-password', linkId: link.id, userName },
      restart: false,
      undo: 'Remove the password.',
    };
    if (withheld.reason !== 'kept for another target')
      return withheld.reason === 'refused before'
        ? [type, byHand({ title: 'Unlock the account, if it is locked', target: userName })]
        : [type];
    const { keptFor: before, wanted: after } = withheld;
    return [
      {
        title: 'Send the stored password to the new target',
        target: link.name,
        before: sayPasswordTarget(before),
        after: sayPasswordTarget(after),
        change: { kind: 'release-password', linkId: link.id, before, after },
        restart: false,
        undo: 'Type another password, which belongs to the new target alone.',
      },
      type,
    ];
  },
});
