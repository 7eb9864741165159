import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { linkUrlOf, linkUrlParts } from '../../../link-url.js';
import { hasCode } from '../classic-sight.js';
import { listed } from '../../../wording.js';

const unknownCode = 0x800401f3;

/** The machine’s server list has no program of that name. */
export const programUnknown = cause({
  id: 'program-unknown',
  steps: ['class'],
  clause: 'OPC Common 6.4.4',
  title: 'No server goes by that name there',
  severity: 'fails',
  test({ facts }) {
    const found = facts.latest('classic-class');
    return found && hasCode(found.failure, unknownCode) ? { because: [found], found } : null;
  },
  meaning({ found: { program, nearest, known } }, { subject: { serverMachine } }) {
    const near = nearest === null ? '' : ` The nearest is ${nearest}.`;
    const has = known.length === 0 ? 'it has none at all' : `it has ${listed(known)}`;
    return `The server list of ${serverMachine.name} has no ${program}: ${has}.${near}`;
  },
  remedies({ found: { nearest, program } }, { subject: { link, server } }) {
    const parts = linkUrlParts(link);
    const rename =
      nearest === null || !parts
        ? []
        : [
            {
              title: `Use the name ${nearest}`,
              target: link.name,
              before: link.endpointUrl,
              after: linkUrlOf(link.kind, { ...parts, path: `/${nearest}` }),
              change: {
                kind: 'set-endpoint-url' as const,
                linkId: link.id,
                before: link.endpointUrl,
                after: linkUrlOf(link.kind, { ...parts, path: `/${nearest}` }),
              },
              restart: false,
              undo: 'Set the old name again.',
            },
          ];
    return [
      ...rename,
      byHand({
        title: `Register ${server.name} on its machine, as its maker says`,
        target: server.name,
        before: `${program} is not registered`,
        after: 'registered',
        undo: 'Remove its registration.',
      }),
    ];
  },
});
