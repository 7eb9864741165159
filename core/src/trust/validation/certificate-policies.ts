import type { Certificate } from '../certificate.js';
import type { IssuerFault } from './usage.js';

const anyPolicy = '2.5.29.32.0';

interface PolicyNode {
  readonly policy: string;
  readonly expected: ReadonlySet<string>;
}

/**
 * Certificate policies (RFC 5280 §6.1), with any policy acceptable at the start: it fails only where an authority demands
 * an explicit policy and none is left that the whole path agrees on. Only the lowest level of the tree is kept, since
 * nothing else decides.
 */
export function policyFault(path: readonly Certificate[]): IssuerFault | null {
  if (!path.some(demandsPolicy)) return null;
  const below = path.slice(0, -1).reverse();
  let nodes: readonly PolicyNode[] = [{ policy: anyPolicy, expected: new Set([anyPolicy]) }];
  let [explicit, mapping, any] = [below.length + 1, below.length + 1, below.length + 1];
  for (const [index, certificate] of below.entries()) {
    const { policies, policyMappings, policyConstraints, inhibitAnyPolicy } = certificate.extensions;
    const isLast = index === below.length - 1;
    const selfIssued = certificate.isSelfIssued;
    nodes = policies ? agreed(nodes, policies, any > 0 || (!isLast && selfIssued)) : [];
    if (explicit === 0 && nodes.length === 0) return noPolicyLeft(certificate, path);
    if (!isLast) {
      if (policyMappings?.some(([from, to]) => from === anyPolicy || to === anyPolicy))
        return { certificate, says: `${certificate.subject.text} maps any policy to another, which is forbidden.` };
      nodes = mapped(nodes, policyMappings ?? [], mapping > 0);
      if (!selfIssued) [explicit, mapping, any] = [less(explicit), less(mapping), less(any)];
      explicit = Math.min(explicit, policyConstraints?.requireExplicitPolicy ?? explicit);
      mapping = Math.min(mapping, policyConstraints?.inhibitPolicyMapping ?? mapping);
      any = Math.min(any, inhibitAnyPolicy ?? any);
    } else {
      explicit = policyConstraints?.requireExplicitPolicy === 0 ? 0 : less(explicit);
      if (explicit === 0 && nodes.length === 0) return noPolicyLeft(certificate, path);
    }
  }
  return null;
}

const demandsPolicy = ({ extensions }: Certificate): boolean =>
  extensions.policyConstraints !== null || extensions.policyMappings !== null;

const less = (count: number): number => Math.max(0, count - 1);

function noPolicyLeft(certificate: Certificate, path: readonly Certificate[]): IssuerFault {
  const demanding = path.find(demandsPolicy) ?? certificate;
  return {
    certificate: demanding,
    says: `${demanding.subject.text} requires a certificate policy, and ${certificate.subject.text} has none that the path agrees on.`,
  };
}

/** RFC 5280 §6.1.3 d. */
function agreed(before: readonly PolicyNode[], policies: readonly string[], anyCounts: boolean): readonly PolicyNode[] {
  const nodes = new Map<string, PolicyNode>();
  const add = (policy: string): void => void nodes.set(policy, { policy, expected: new Set([policy]) });
  const anyBefore = before.some(({ policy }) => policy === anyPolicy);
  for (const policy of policies)
    if (policy !== anyPolicy && (anyBefore || before.some(({ expected }) => expected.has(policy)))) add(policy);
  if (policies.includes(anyPolicy) && anyCounts)
    for (const { expected } of before) for (const policy of expected) if (!nodes.has(policy)) add(policy);
  return [...nodes.values()];
}

/** RFC 5280 §6.1.4 b. */
function mapped(
  nodes: readonly PolicyNode[],
  mappings: readonly (readonly [string, string])[],
  mayMap: boolean,
): readonly PolicyNode[] {
  if (mappings.length === 0) return nodes;
  const from = new Set(mappings.map(([policy]) => policy));
  if (!mayMap) return nodes.filter(({ policy }) => !from.has(policy));
  const targets = (policy: string): ReadonlySet<string> =>
    new Set(mappings.filter(([one]) => one === policy).map(([, other]) => other));
  const changed = nodes.map((node) => (from.has(node.policy) ? { ...node, expected: targets(node.policy) } : node));
  const hasAny = nodes.some(({ policy }) => policy === anyPolicy);
  const added = hasAny ? [...from].filter((policy) => !nodes.some((node) => node.policy === policy)) : [];
  return [...changed, ...added.map((policy) => ({ policy, expected: targets(policy) }))];
}
