import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { hasCode, isDenied } from '../classic-sight.js';
import { listed } from '../../../wording.js';
import { sayFailure } from '../../say-fact.js';

const cannotConnect = 0x80040202;

/** Reading works, and nothing comes back to the client. */
export const wayBackBlocked = cause({
  id: 'way-back-blocked',
  steps: ['watch'],
  clause: 'Data Access 4.6.1, MS-DCOM 3.1.1.5.1',
  title: 'The way back to the client is blocked',
  severity: 'fails',
  test({ facts }) {
    const watch = facts.latest('classic-watch');
    if (!watch || watch.unproven.length > 0 || (watch.calls.length > 0 && !watch.failure)) return null;
    return { because: [watch], failure: watch.failure, back: watch.back };
  },
  meaning({ failure, back }, { subject: { server, clientMachine } }) {
    const where = back
      ? ` It was told to call ${listed(back.hosts)}, port ${back.resolverPort}, and then port ${back.objectPort}.`
      : '';
    if (failure && (hasCode(failure, cannotConnect) || isDenied(failure)))
      return `${server.name} can be read, and can’t call ${clientMachine.name} back: ${sayFailure(failure)}. The name of the client means nothing to the server, a firewall stands in the way, or the client does not let the server’s account in.${where}`;
    if (failure) return `${server.name} can be read, and changes can’t be had: ${sayFailure(failure)}.${where}`;
    return `${server.name} took the wish to be told of changes, and never called back. A firewall drops its calls, or its items do not change.${where}`;
  },
  remedies({ back }, { subject: { server, serverMachine, clientMachine } }) {
    return [
      byHand({
        title: `Let ${serverMachine.name} through to ${clientMachine.name}`,
        target: 'the firewalls on the way back, the client’s own among them',
        before: 'blocked',
        after: `${serverMachine.addresses[0] ?? serverMachine.name} → ${clientMachine.addresses[0] ?? clientMachine.name}, TCP 135 and the client’s object ports`,
      }),
      byHand({
        title: `Let ${serverMachine.name} know the client’s name`,
        target: serverMachine.name,
        before: back ? listed(back.hosts) : clientMachine.name,
        after: listed(clientMachine.addresses),
        undo: 'Remove the record.',
      }),
      byHand({
        title: `Give the account of ${server.name} access from another machine, at the client`,
        target: `default access permission of ${clientMachine.name}, and its limit`,
        before: 'refused',
        after: 'access far, for this account alone',
        restart: true,
      }),
    ];
  },
});
