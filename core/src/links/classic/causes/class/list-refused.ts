import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { hasCode, sayCaller } from '../classic-sight.js';
import { sayFailure } from '../../say-fact.js';

const programUnknown = 0x800401f3;

/** The machine’s server list can’t be asked. */
export const listRefused = cause({
  id: 'list-refused',
  steps: ['class'],
  clause: 'OPC Common 6.3',
  title: 'The machine’s server list can’t be asked',
  severity: 'fails',
  test({ facts }) {
    const found = facts.latest('classic-class');
    if (!found?.failure || hasCode(found.failure, programUnknown)) return null;
    return { because: [found], failure: found.failure };
  },
  meaning: ({ failure }, sight) =>
    `${sayCaller(sight)} can’t ask the server list of ${sight.subject.serverMachine.name}: ${sayFailure(failure)}. The list is a server of its own, with launch and access permissions of its own.`,
  remedies: (_, sight) => [
    byHand({
      title: 'Name the server by its CLSID in the link: then the list is not needed',
      target: sight.subject.link.name,
      before: sight.subject.link.endpointUrl,
      after: 'the CLSID in place of the name',
    }),
    byHand({
      title: `Or give ${sayCaller(sight)} launch and access permission on the server list`,
      target: sight.subject.serverMachine.name,
      before: 'refused',
      after: 'launch and access from another machine, for this account alone',
    }),
  ],
});
