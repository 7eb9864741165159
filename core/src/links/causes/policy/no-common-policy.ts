import { cause } from '../../cause.js';
import { endpointName } from '../../../entry/endpoint.js';
import { byHand } from '../../../orders/change.js';
import type { Remedy } from '../../../orders/change.js';
import { currentPolicies, securityPolicyOf } from '../../../ua/security-policies.js';
import { listed } from '../../wording.js';

/** No endpoint's policy and mode are among the client's. */
export const noCommonPolicy = cause({
  id: 'no-common-policy',
  steps: ['policy'],
  clause: 'Part 7',
  title: 'The two sides have no security in common',
  severity: 'fails',
  test({ facts, choice, subject }) {
    const listing = facts.latest('endpoints');
    if (listing?.outcome !== 'listed' || !choice || choice.chosen) return null;
    return { because: [listing], offered: listing.endpoints, chosenByHand: subject.link.chosenEndpoint };
  },
  meaning({ offered, chosenByHand }, { subject: { client, server } }) {
    const has = listed(client.securityPolicies.map((policy) => policy));
    const offers = offered.length === 0 ? 'no endpoint at all' : listed([...new Set(offered.map(endpointName))]);
    const chosen = chosenByHand
      ? ` The link is set to ${chosenByHand.policy}, ${chosenByHand.mode}, and to nothing else.`
      : '';
    return `${server.name} offers ${offers}; ${client.name} has ${has} (${listed(client.securityModes)}).${chosen}`;
  },
  remedies({ offered, chosenByHand }, { subject: { client, server, link } }): readonly Remedy[] {
    const free: readonly Remedy[] = chosenByHand
      ? [
          {
            title: 'Let the link take the best endpoint that both sides have',
            target: link.name,
            before: `${chosenByHand.policy}, ${chosenByHand.mode}`,
            after: 'the best that both sides have',
            change: { kind: 'choose-endpoint', linkId: link.id, before: chosenByHand, after: null },
            restart: false,
            undo: 'Choose the old endpoint again.',
          },
        ]
      : [];
    const serverHas = new Set(offered.map((endpoint) => securityPolicyOf(endpoint.securityPolicyUri)?.name));
    const forClient = currentPolicies.find((policy) => serverHas.has(policy.name));
    const forServer = currentPolicies.find((policy) => client.securityPolicies.includes(policy.name));
    return [
      ...free,
      ...(forClient
        ? [
            byHand({
              title: `Give ${client.name} the policy ${forClient.name}`,
              target: client.name,
              before: listed(client.securityPolicies),
              after: `also ${forClient.name}`,
              restart: true,
            }),
          ]
        : []),
      ...(forServer && !serverHas.has(forServer.name)
        ? [
            byHand({
              title: `Let ${server.name} offer ${forServer.name}, SignAndEncrypt`,
              target: server.name,
              before: listed([...new Set(offered.map(endpointName))]),
              after: `also ${forServer.name}; nothing is taken from other clients`,
              restart: true,
            }),
          ]
        : []),
    ];
  },
});
