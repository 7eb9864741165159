import { cause } from '../../cause.js';
import type { TunnelEndSeen } from '../../facts.js';
import { tunnelEndWords } from '../../say-fact.js';
import { listed } from '../../wording.js';
import { byHand } from '../../../orders/change.js';

/** The link goes through a tunnel, one of whose ends is not joined with the other, and nothing answers at its entrance. */
export const tunnelDown = cause({
  id: 'tunnel-down',
  steps: ['reach', 'hello'],
  clause: 'RFC 9113 §8.5',
  title: 'The tunnel does not stand',
  severity: 'fails',
  explains: ['port-refused', 'port-silent', 'not-ua', 'stopped-elsewhere'],
  test({ facts }, step) {
    const tunnel = facts.latest('tunnel');
    const apart = tunnel?.ends.filter(({ state, fault }) => state !== 'joined' || fault !== null) ?? [];
    const dialled = facts.all('tcp-connect').filter(({ purpose }) => purpose === 'link');
    const isReached = dialled.some(({ outcome }) => outcome === 'open');
    const hello = facts.latest('hello');
    const stops = step === 'reach' ? !isReached && dialled[0] : isReached && hello?.outcome !== 'acknowledged' && hello;
    return tunnel && apart.length > 0 && stops ? { because: [tunnel, stops], tunnel, apart } : null;
  },
  meaning: ({ tunnel, apart }) =>
    `The link goes through ${tunnel.name}: ${listed(apart.map((end) => `the end on ${end.machine} ${why(end)}`))}.`,
  remedies: ({ tunnel, apart }) =>
    apart.map((end) =>
      byHand({
        title:
          end.state === 'waiting'
            ? `See whether the other end of ${tunnel.name} can be reached from ${end.machine}, and whom each end names`
            : `See that the end of ${tunnel.name} on ${end.machine} runs`,
        target: end.machine,
        before: end.fault ?? tunnelEndWords[end.state],
        after: 'is joined',
        undo: 'Nothing to undo.',
      }),
    ),
});

const why = ({ state, fault }: TunnelEndSeen): string => (fault === null ? tunnelEndWords[state] : `can’t: ${fault}`);
