import type { RightBits } from './node-rights.js';
import { patternForPath } from './item-pattern.js';

/** A node with what each identity may do with it, in the order of the identities. */
export interface RatedNode {
  readonly nodeId: string;
  /** Parts of its path, below Objects. */
  readonly path: readonly string[];
  readonly rights: readonly RightBits[];
}

/** Nodes with the same rights for everybody, named by what their paths have in common. */
export interface RightsGroup {
  /** A pattern that fits all of them (`item-pattern.ts`). */
  readonly pattern: string;
  /** Others beside them have such names, too, and other rights. */
  readonly fitsOthers: boolean;
  readonly rights: readonly RightBits[];
  readonly nodes: number;
  /** Some of them, as examples. */
  readonly examples: readonly RatedNode[];
}

interface Branch {
  readonly part: string;
  readonly children: Map<string, Branch>;
  /** Nodes of just this path: several may have the same one. */
  readonly own: RatedNode[];
  /** The one key of all nodes here and below; null: they differ. Empty: there is none. */
  key: string | null;
  nodes: number;
}

const mostExamples = 5;

/**
 * Groups nodes that have the same rights: a branch whose nodes all have the same is one group; branches and nodes beside each
 * other that have the same are one, too. Every node is in just one group.
 * @returns the largest groups first
 */
export function groupRights(nodes: readonly RatedNode[]): readonly RightsGroup[] {
  const root = branchOf('');
  for (const node of nodes) place(root, node);
  rate(root);
  const groups: RightsGroup[] = [];
  collect(root, groups);
  return groups.sort((left, right) => right.nodes - left.nodes || (left.pattern < right.pattern ? -1 : 1));
}

const branchOf = (part: string): Branch => ({ part, children: new Map(), own: [], key: '', nodes: 0 });

function place(root: Branch, node: RatedNode): void {
  let at = root;
  for (const part of node.path) {
    let next = at.children.get(part);
    if (!next) at.children.set(part, (next = branchOf(part)));
    at = next;
  }
  at.own.push(node);
}

const keyOf = ({ rights }: RatedNode): string => rights.join(',');

/** Notes of every branch how many nodes it has, and whether all have the same rights. Paths may be deep: no recursion. */
function rate(root: Branch): void {
  const order = [root];
  for (let at = 0; at < order.length; at += 1) order.push(...(order[at]?.children.values() ?? []));
  for (const branch of order.reverse()) {
    const keys = new Set(branch.own.map(keyOf));
    branch.nodes = branch.own.length;
    let isOne = true;
    for (const child of branch.children.values()) {
      branch.nodes += child.nodes;
      if (child.key === null) isOne = false;
      else if (child.key !== '') keys.add(child.key);
    }
    const [first = ''] = keys;
    branch.key = isOne && keys.size <= 1 ? first : null;
  }
}

function collect(root: Branch, groups: RightsGroup[]): void {
  const open: { readonly branch: Branch; readonly path: readonly string[] }[] = [{ branch: root, path: [] }];
  for (let at = open.pop(); at; at = open.pop()) {
    const { branch, path: here } = at;
    if (branch.key !== null) {
      if (branch.nodes > 0) groups.push(groupOf([branch], wholePattern(branch, here)));
      continue;
    }
    const alike = new Map<string, Branch[]>();
    for (const child of branch.children.values()) {
      if (child.key === null) open.push({ branch: child, path: [...here, child.part] });
      else if (child.nodes > 0) {
        const group = alike.get(child.key);
        if (group) group.push(child);
        else alike.set(child.key, [child]);
      }
    }
    for (const node of branch.own) {
      const own: Branch = { ...branchOf(''), own: [node], nodes: 1, key: keyOf(node) };
      groups.push(groupOf([own], patternForPath(here)));
    }
    for (const some of alike.values()) {
      const fitsOthers = some.length > 1 && isSharedStart(some, branch);
      groups.push({ ...groupOf(some, patternOf(some, here)), fitsOthers });
    }
  }
}

/** A branch by itself: the node alone, or all that is at and below it. */
const wholePattern = ({ children }: Branch, path: readonly string[]): string => {
  const own = patternForPath(path);
  if (children.size === 0) return own;
  return own === '' ? '**' : `${own}/**`;
};

/** Branches beside each other: by their name where there is one, else by what their names begin with. */
function patternOf(some: readonly Branch[], path: readonly string[]): string {
  const [first] = some;
  if (some.length === 1 && first) return wholePattern(first, [...path, first.part]);
  const above = path.length === 0 ? '' : `${patternForPath(path)}/`;
  const common = commonStart(some.map(({ part }) => part));
  const isDeep = some.some(({ children }) => children.size > 0);
  return `${above}${patternForPath([common])}*${isDeep ? '/**' : ''}`;
}

/** Whether another branch beside some begins as all of them do. */
function isSharedStart(some: readonly Branch[], { children }: Branch): boolean {
  const common = commonStart(some.map(({ part }) => part));
  const own = new Set(some);
  return [...children.values()].some((child) => !own.has(child) && child.part.startsWith(common));
}

function commonStart(words: readonly string[]): string {
  const [first = '', ...others] = words;
  let length = first.length;
  for (const word of others) while (!word.startsWith(first.slice(0, length))) length -= 1;
  return first.slice(0, length);
}

function groupOf(some: readonly Branch[], pattern: string): RightsGroup {
  const examples: RatedNode[] = [];
  const open = [...some].reverse();
  for (let branch = open.pop(); branch && examples.length < mostExamples; branch = open.pop()) {
    examples.push(...branch.own.slice(0, mostExamples - examples.length));
    open.push(...[...branch.children.values()].reverse());
  }
  return {
    pattern,
    fitsOthers: false,
    rights: examples[0]?.rights ?? [],
    nodes: some.reduce((sum, { nodes }) => sum + nodes, 0),
    examples,
  };
}
