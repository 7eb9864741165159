import { cause } from '../../cause.js';
import type { FactOf } from '../../facts.js';
import { endpointUrlParts } from '../../endpoint-url.js';
import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';

/** The server advertises a host that the client can't resolve or reach. */
export const advertisedUnreachable = cause({
  id: 'advertised-unreachable',
  steps: ['endpoints'],
  clause: 'Part 4 §5.5.4',
  title: 'The advertised address can’t be used',
  severity: 'fails',
  test({ facts }) {
    const listing = facts.latest('endpoints');
    if (listing?.outcome !== 'listed') return null;
    const used = facts.latest('endpoint-url')?.host ?? null;
    const urls = new Set(listing.endpoints.map(({ endpointUrl }) => endpointUrl));
    if ([...urls].some((url) => (endpointUrlParts(url)?.host ?? null) === used)) return null;
    const advertised = facts.all('name-resolution').filter((fact) => fact.purpose === 'advertised');
    const lost = advertised.filter((fact) => fact.addresses.length === 0);
    const mute = facts.all('tcp-connect').filter((fact) => fact.purpose === 'advertised' && fact.outcome !== 'open');
    const [first, ...rest]: readonly (FactOf<'name-resolution'> | FactOf<'tcp-connect'>)[] = [...lost, ...mute];
    if (!first || lost.length + mute.length < advertised.length) return null;
    return {
      because: [listing, first, ...rest],
      hosts: advertised.map((fact) => fact.host),
      resolved: lost.length === 0,
    };
  },
  meaning: ({ hosts, resolved }, { subject: { link, server, clientMachine } }) =>
    `${server.name} answers at ${link.endpointUrl} and tells its clients to connect to ${listed(hosts)}. ${resolved ? `${clientMachine.name} can’t reach that.` : `${clientMachine.name} can’t resolve that.`} Discovery works; a client that follows the advertised address gets no session.`,
  remedies: ({ hosts }, { subject: { link, server, serverMachine } }) => [
    byHand({
      title: 'Correct the host name in the server’s own settings',
      target: server.name,
      before: listed(hosts),
      after: endpointUrlParts(link.endpointUrl)?.host ?? serverMachine.hostNames[0] ?? serverMachine.name,
      restart: true,
    }),
    byHand({
      title: `Or add ${listed(hosts)} to the name server`,
      target: 'the plant’s name server',
      after: listed(serverMachine.addresses),
      undo: 'Remove the record.',
    }),
  ],
});
