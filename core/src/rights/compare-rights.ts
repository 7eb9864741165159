import type { RightBits } from './node-rights.js';

/** What an identity may do with nodes, by node id, as it was seen at one time. */
export interface RightsThen {
  readonly identity: string;
  readonly nodes: ReadonlyMap<string, { readonly path: readonly string[]; readonly rights: RightBits }>;
}

/** What has become of somebody’s rights on a node. */
export interface RightsChange {
  readonly identity: string;
  readonly nodeId: string;
  readonly path: readonly string[];
  readonly change: 'given' | 'taken' | 'new node' | 'node is gone';
  /** The rights that are more or less than before; of a node that is new or gone, those that it has or had. */
  readonly rights: RightBits;
}

/** Compares two snapshots of the same identity; what is given stands before what is taken. */
export function compareRights(before: RightsThen, after: RightsThen): readonly RightsChange[] {
  const { identity } = after;
  const given: RightsChange[] = [];
  const taken: RightsChange[] = [];
  for (const [nodeId, { path, rights }] of after.nodes) {
    const then = before.nodes.get(nodeId);
    if (!then) given.push({ identity, nodeId, path, change: 'new node', rights });
    else {
      if (rights & ~then.rights) given.push({ identity, nodeId, path, change: 'given', rights: rights & ~then.rights });
      if (then.rights & ~rights) taken.push({ identity, nodeId, path, change: 'taken', rights: then.rights & ~rights });
    }
  }
  for (const [nodeId, { path, rights }] of before.nodes)
    if (!after.nodes.has(nodeId)) taken.push({ identity, nodeId, path, change: 'node is gone', rights });
  return [...given, ...taken];
}
