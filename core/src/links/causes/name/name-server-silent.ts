import { isAddressLiteral } from '../../endpoint-url.js';
import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The name could not be looked up: whoever resolves names does not answer, or failed. */
export const nameServerSilent = cause({
  id: 'name-server-silent',
  steps: ['name'],
  clause: 'RFC 1035 §7.2',
  title: 'The name could not be looked up',
  severity: 'fails',
  test({ facts }) {
    const resolution = facts.all('name-resolution').findLast((fact) => fact.purpose === 'link');
    return resolution &&
      resolution.addresses.length === 0 &&
      resolution.lookUp === 'not answered' &&
      !isAddressLiteral(resolution.host)
      ? { because: [resolution], resolution }
      : null;
  },
  meaning: ({ resolution: { host, asked, failure } }) =>
    `Whether ${host} has an address is not known: ${asked ? `the name server ${asked}` : 'the name service of this computer'} gave no answer (${failure ?? 'no reason given'}). The name itself may be right.`,
  remedies: ({ resolution: { asked } }) => [
    byHand({
      title: asked
        ? `Check whether the name server ${asked} runs, and whether its address in Settings is right`
        : 'Check the name service of this computer, or name the plant’s name server in Settings',
      target: asked ? `the name server ${asked}` : 'name service',
      undo: 'Nothing to undo.',
    }),
  ],
});
