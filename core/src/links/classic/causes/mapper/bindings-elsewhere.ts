import { cause } from '../../../cause.js';
import { byHand } from '../../../../orders/change.js';
import { listed } from '../../../wording.js';
import { sayPlace } from '../../say-fact.js';

/** Of the places that the machine advertises, the client can use none, or not all. */
export const bindingsElsewhere = cause({
  id: 'bindings-elsewhere',
  steps: ['bindings'],
  clause: 'MS-DCOM 2.2.19.3',
  title: 'The machine advertises places that the client can’t use',
  severity: 'fails',
  test({ facts }) {
    const seen = facts.latest('classic-bindings');
    const unusable = (seen?.places ?? []).filter(({ outcome }) => outcome !== 'open');
    return seen && unusable.length > 0
      ? { because: [seen], unusable, isAll: unusable.length === seen.places.length }
      : null;
  },
  severityOf: ({ isAll }) => (isAll ? 'fails' : 'weak'),
  meaning: ({ unusable, isAll }, { subject: { clientMachine, serverMachine } }) =>
    `${serverMachine.name} advertises ${isAll ? 'only places' : 'places'} that ${clientMachine.name} can’t use: ${listed(unusable.map(sayPlace))}.${isAll ? '' : ' A client that takes one of them waits until it gives up.'}`,
  remedies: ({ unusable }, { subject: { clientMachine, serverMachine } }) => [
    byHand({
      title: `Let ${clientMachine.name} know ${listed(unusable.map(({ host }) => host))}, by the name server or its hosts file`,
      target: clientMachine.name,
      before: 'means no usable address there',
      after: listed(serverMachine.addresses),
      undo: 'Remove the record.',
    }),
    byHand({
      title: 'Or take COM off the network card that the client does not reach',
      target: serverMachine.name,
      restart: true,
      undo: 'Put it back onto all cards.',
    }),
  ],
});
