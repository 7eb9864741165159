import { cause } from '../../cause.js';
import { listed } from '../../wording.js';

/** Several addresses, and only some of them answer. */
export const manyAddresses = cause({
  id: 'many-addresses',
  steps: ['name'],
  clause: 'Part 6 §7.2',
  title: 'Only some of the addresses answer',
  severity: 'weak',
  test({ facts }) {
    const dialled = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link');
    const open = dialled.filter((fact) => fact.outcome === 'open');
    const [first, ...rest] = dialled.filter((fact) => fact.outcome !== 'open');
    const answering = open[0];
    return first && answering
      ? { because: [first, ...rest, ...open], answering: answering.address, mute: [first, ...rest] }
      : null;
  },
  meaning: ({ answering, mute }) =>
    `The name leads to several addresses, and only ${answering} answers; ${listed(mute.map((fact) => `${fact.address} is ${fact.outcome}`))}. A client that takes the wrong one gets no answer.`,
  remedies: ({ answering }, { subject: { link } }) => [
    {
      title: `Pin ${answering}`,
      target: link.name,
      before: link.pinnedAddress ?? 'whichever address comes first',
      after: answering,
      change: { kind: 'pin-address', linkId: link.id, before: link.pinnedAddress, after: answering },
      restart: false,
      undo: 'Remove the pinned address.',
    },
  ],
});
