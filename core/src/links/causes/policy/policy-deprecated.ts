import { cause } from '../../cause.js';
import { currentPolicies, securityPolicyOf } from '../../../ua/security-policies.js';
import { byHand } from '../../../orders/change.js';

/** The endpoint taken has a deprecated policy. */
export const policyDeprecated = cause({
  id: 'policy-deprecated',
  steps: ['policy'],
  clause: 'Part 7',
  title: 'The security policy is deprecated',
  severity: 'weak',
  test({ facts, choice }) {
    const listing = facts.latest('endpoints');
    const policy = choice?.chosen ? securityPolicyOf(choice.chosen.securityPolicyUri) : null;
    return listing && policy?.deprecatedSince ? { because: [listing], policy } : null;
  },
  meaning: ({ policy }) => `The link uses ${policy.name}, which the standard has deprecated: it relies on SHA-1.`,
  remedies({ policy }, { subject: { client, server } }) {
    const better = currentPolicies.find(({ name }) => client.securityPolicies.includes(name));
    return [
      byHand({
        title: better
          ? `Let ${server.name} offer ${better.name}, which ${client.name} has already`
          : 'Update both sides to a current policy',
        target: server.name,
        before: policy.name,
        after: better?.name ?? 'Basic256Sha256 or better',
        restart: true,
      }),
    ];
  },
});
