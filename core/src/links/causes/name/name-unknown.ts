import { isAddressLiteral } from '../../endpoint-url.js';
import { linkUrlOf, linkUrlParts } from '../../link-url.js';
import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { nearest } from '../../../plant/nearness.js';

/** No address for the host. */
export const nameUnknown = cause({
  id: 'name-unknown',
  steps: ['name'],
  clause: 'Part 6 §7.1',
  title: 'The host name is unknown',
  severity: 'fails',
  test({ facts, subject }) {
    const resolution = facts.all('name-resolution').findLast((fact) => fact.purpose === 'link');
    if (!resolution || resolution.addresses.length > 0 || isAddressLiteral(resolution.host)) return null;
    if (resolution.lookUp === 'not answered') return null;
    const names = subject.machines.flatMap((machine) => machine.hostNames);
    return { because: [resolution], host: resolution.host, meant: nearest(resolution.host, names) };
  },
  meaning: ({ host, meant }) =>
    `The host ${host} is unknown.${meant ? ` The plant has a machine named ${meant}: the name was probably mistyped.` : ''}`,
  remedies({ host, meant }, { subject: { link, serverMachine } }) {
    const parts = linkUrlParts(link);
    const rename =
      meant && parts
        ? [
            {
              title: `Use the host name ${meant}`,
              target: link.name,
              before: link.endpointUrl,
              after: linkUrlOf(link.kind, { ...parts, host: meant }),
              change: {
                kind: 'set-endpoint-url' as const,
                linkId: link.id,
                before: link.endpointUrl,
                after: linkUrlOf(link.kind, { ...parts, host: meant }),
              },
              restart: false,
              undo: 'Set the old URL again.',
            },
          ]
        : [];
    return [
      ...rename,
      byHand({
        title: `Add ${host} to the name server`,
        target: 'the plant’s name server',
        after: `${host} → ${serverMachine.addresses[0] ?? 'the address of ' + serverMachine.name}`,
        undo: 'Remove the record.',
      }),
    ];
  },
});
