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
  /** The pattern fits other nodes, too, that have other rights; or there are so many groups that nobody looked. */
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
/** Of more groups it is not looked whether their patterns fit others. */
const mostLookedAt = 2_000;

/** A part of a group’s pattern: a name, the beginning of a name, or all that is at and below a branch. */
type Token = { readonly is: 'name' | 'start'; readonly text: string } | { readonly is: 'below' };

interface Gathered {
  readonly tokens: readonly Token[];
  readonly rights: readonly RightBits[];
  readonly nodes: number;
  readonly examples: readonly RatedNode[];
}

/**
 * Groups nodes that have the same rights: a branch whose nodes all have the same is one group; branches and nodes beside each
 * other that have the same are one, too, and so are those of the same name on branches that are built alike. Every node is in
 * just one group.
 * @returns the largest groups first
 */
export function groupRights(nodes: readonly RatedNode[]): readonly RightsGroup[] {
  const root = branchOf('');
  for (const node of nodes) place(root, node);
  rate(root);
  const gathered = mergedByName(collect(root));
  const groups = gathered.map(({ tokens, ...group }): RightsGroup => {
    const isOpen = tokens.some(({ is }) => is === 'start');
    const fitsOthers = isOpen && (gathered.length > mostLookedAt || fitting(root, tokens) > group.nodes);
    return { ...group, pattern: patternOf(tokens), fitsOthers };
  });
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

const keyOf = ({ rights }: Pick<RatedNode, 'rights'>): string => rights.join(',');

/** Notes of every branch how many nodes it has, and whether all have the same rights. Paths may be deep: no recursion. */
function rate(root: Branch): void {
  const order = [root];
  for (let at = 0; at < order.length; at += 1)
    for (const child of order[at]?.children.values() ?? []) order.push(child);
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

const named = (text: string): Token => ({ is: 'name', text });

function collect(root: Branch): readonly Gathered[] {
  const groups: Gathered[] = [];
  const open: { readonly branch: Branch; readonly above: readonly Token[] }[] = [{ branch: root, above: [] }];
  for (let at = open.pop(); at; at = open.pop()) {
    const { branch, above } = at;
    if (branch.key !== null) {
      if (branch.nodes > 0) groups.push(groupOf([branch], wholeTokens(branch, above)));
      continue;
    }
    const alike = new Map<string, Branch[]>();
    for (const child of branch.children.values()) {
      if (child.key === null) open.push({ branch: child, above: [...above, named(child.part)] });
      else if (child.nodes > 0) {
        const group = alike.get(child.key);
        if (group) group.push(child);
        else alike.set(child.key, [child]);
      }
    }
    for (const node of branch.own) groups.push(groupOf([{ ...branchOf(''), own: [node], nodes: 1 }], above));
    for (const some of alike.values()) groups.push(groupOf(some, siblingTokens(some, above)));
  }
  return groups;
}

/** A branch by itself: the node alone, or all that is at and below it. */
const wholeTokens = ({ children }: Branch, at: readonly Token[]): readonly Token[] =>
  children.size === 0 ? at : [...at, { is: 'below' }];

/** Branches beside each other: by their name where there is one, else by what their names begin with. */
function siblingTokens(some: readonly Branch[], above: readonly Token[]): readonly Token[] {
  const [first] = some;
  if (some.length === 1 && first) return wholeTokens(first, [...above, named(first.part)]);
  const start: Token = { is: 'start', text: commonStart(some.map(({ part }) => part)) };
  return [...above, start, ...(some.some(({ children }) => children.size > 0) ? [{ is: 'below' } as const] : [])];
}

function commonStart(words: readonly string[]): string {
  const [first = '', ...others] = words;
  let length = first.length;
  for (const word of others) while (!word.startsWith(first.slice(0, length))) length -= 1;
  return first.slice(0, length);
}

function groupOf(some: readonly Branch[], tokens: readonly Token[]): Gathered {
  const examples: RatedNode[] = [];
  const open = [...some].reverse();
  for (let branch = open.pop(); branch && examples.length < mostExamples; branch = open.pop()) {
    examples.push(...branch.own.slice(0, mostExamples - examples.length));
    open.push(...[...branch.children.values()].reverse());
  }
  const nodes = some.reduce((sum, branch) => sum + branch.nodes, 0);
  return { tokens, rights: examples[0]?.rights ?? [], nodes, examples };
}

/** Groups that differ in one part of their patterns alone become one, part after part: `Lehr/*` with `Temperature` below. */
function mergedByName(groups: readonly Gathered[]): readonly Gathered[] {
  let merged = groups;
  const deepest = merged.reduce((most, { tokens }) => Math.max(most, tokens.length), 0);
  for (let at = 0; at < deepest; at += 1) {
    const alike = new Map<string, Gathered[]>();
    for (const group of merged) {
      const key = `${keyOf(group)} ${frameOf(group.tokens, at)}`;
      const some = alike.get(key);
      if (some) some.push(group);
      else alike.set(key, [group]);
    }
    merged = [...alike.values()].flatMap((some) => {
      const [first] = some;
      if (!first || some.length === 1) return some;
      const words = some.map(({ tokens }) => textOf(tokens[at]));
      const tokens = first.tokens.map((token, place) =>
        place === at ? ({ is: 'start', text: commonStart(words) } as const) : token,
      );
      const nodes = some.reduce((sum, group) => sum + group.nodes, 0);
      return [
        {
          tokens,
          rights: first.rights,
          nodes,
          examples: some.flatMap(({ examples }) => examples).slice(0, mostExamples),
        },
      ];
    });
  }
  return merged;
}

const textOf = (token: Token | undefined): string => (token && token.is !== 'below' ? token.text : '');

/** Tokens with one of them left open; the last one names what the group is, and is never open. */
const frameOf = (tokens: readonly Token[], open: number): string =>
  JSON.stringify(
    tokens.map((token, at) => (at === open && at < tokens.length - 1 && token.is !== 'below' ? null : token)),
  );

/** How many nodes a pattern fits. */
function fitting(root: Branch, tokens: readonly Token[]): number {
  let reached: readonly Branch[] = [root];
  for (const token of tokens) {
    if (token.is === 'below') return reached.reduce((sum, { nodes }) => sum + nodes, 0);
    const next: Branch[] = [];
    for (const { children } of reached) {
      const child = token.is === 'name' ? children.get(token.text) : null;
      if (child) next.push(child);
      if (token.is === 'start')
        for (const one of children.values()) if (one.part.startsWith(token.text)) next.push(one);
    }
    reached = next;
  }
  return reached.reduce((sum, { own }) => sum + own.length, 0);
}

const patternOf = (tokens: readonly Token[]): string =>
  tokens
    .map((token) => {
      if (token.is === 'below') return '**';
      return token.is === 'name' ? patternForPath([token.text]) : `${patternForPath([token.text])}*`;
    })
    .join('/');
