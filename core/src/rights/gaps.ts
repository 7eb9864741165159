import type { ItemUse } from '../plant/plant.js';
import { fitsPattern, patternInPath } from './item-pattern.js';
import type { ItemPattern } from './item-pattern.js';
import { rightBit } from './node-rights.js';
import type { RightBits, RightName } from './node-rights.js';
import { groupRights } from './group-rights.js';
import type { RatedNode } from './group-rights.js';

/** Somebody who signs in at a server, with what the links need that sign in so. */
export interface RatedIdentity {
  readonly name: string;
  readonly isAnonymous: boolean;
  readonly needs: readonly { readonly path: string; readonly uses: readonly ItemUse[] }[];
}

/** Rights that needs are compared with. */
export const gapRights = ['read', 'write', 'read history'] as const;
export type GapRight = (typeof gapRights)[number];

/** What somebody may do with a node and need not, or needs and may not. */
export interface RightsGap {
  readonly nodeId: string;
  readonly path: readonly string[];
  readonly identity: string;
  readonly right: GapRight;
  readonly gap: 'missing' | 'excess';
  /** The gravest first: what anybody without a name may write. */
  readonly grade: 'grave' | 'weak' | 'slight';
}

const needed: Readonly<Record<ItemUse, RightName | null>> = {
  read: 'read',
  watch: 'read',
  write: 'write',
  history: 'read history',
  // Whether events may be received no attribute tells that a walk reads.
  alarms: null,
};
const grades = ['grave', 'weak', 'slight'] as const;

/**
 * Compares what identities may do with nodes with what their links need. That more may be read than is needed is slight for
 * somebody with a name, and told only where nothing there is needed by anybody; that more may be written is weak, and grave
 * where it needs no name.
 */
export function rightsGaps(nodes: readonly RatedNode[], identities: readonly RatedIdentity[]): readonly RightsGap[] {
  const wishes = identities.map(({ needs }) => neededRights(needs));
  const gaps: RightsGap[] = [];
  for (const { nodeId, path, rights } of nodes)
    identities.forEach(({ name: identity, isAnonymous }, index) => {
      const has = rights[index] ?? 0;
      const wants = wishes[index]?.(path) ?? 0;
      for (const right of gapRights) {
        const [may, must] = [has & rightBit(right), wants & rightBit(right)].map((bits) => bits !== 0);
        if (must && !may) gaps.push({ nodeId, path, identity, right, gap: 'missing', grade: 'grave' });
        if (may && !must && (right === 'write' || (right === 'read' && isAnonymous)))
          gaps.push({ nodeId, path, identity, right, gap: 'excess', grade: excessGrade(right, isAnonymous) });
      }
    });
  return gaps.sort((left, right) => grades.indexOf(left.grade) - grades.indexOf(right.grade));
}

const excessGrade = (right: GapRight, isAnonymous: boolean): RightsGap['grade'] =>
  right === 'write' ? (isAnonymous ? 'grave' : 'weak') : 'slight';

const bitOf = (right: RightName | null): RightBits => (right === null ? 0 : rightBit(right));

/** The rights that some needs want on a path. */
export function neededRights(needs: RatedIdentity['needs']): (path: readonly string[]) => RightBits {
  const exact = new Map<string, RightBits>();
  const patterns: { readonly pattern: ItemPattern; readonly bits: RightBits }[] = [];
  for (const { path, uses } of needs) {
    const bits = uses.reduce((all, use) => all | bitOf(needed[use]), 0);
    const pattern = patternInPath(path);
    if (pattern) patterns.push({ pattern, bits });
    else exact.set(path, (exact.get(path) ?? 0) | bits);
  }
  return (path) =>
    patterns.reduce(
      (all, { pattern, bits }) => (fitsPattern(pattern, path) ? all | bits : all),
      exact.get(path.join('/')) ?? 0,
    );
}

/** Gaps of the same kind on nodes whose paths have something in common. */
export interface GapGroup extends Pick<RightsGap, 'identity' | 'right' | 'gap' | 'grade'> {
  /** A pattern that fits all of them. */
  readonly pattern: string;
  readonly nodes: number;
  /** One of the nodes. */
  readonly example: Pick<RightsGap, 'nodeId' | 'path'>;
}

/** Puts gaps together that are of the same kind; the gravest first, of the same grade the largest. */
export function groupGaps(gaps: readonly RightsGap[]): readonly GapGroup[] {
  const alike = new Map<string, RightsGap[]>();
  for (const gap of gaps) {
    const key = `${grades.indexOf(gap.grade)} ${gap.gap} ${gap.right} ${gap.identity}`;
    const some = alike.get(key);
    if (some) some.push(gap);
    else alike.set(key, [gap]);
  }
  return [...alike.values()]
    .flatMap((some) => {
      const [{ identity, right, gap, grade } = noGap] = some;
      const nodes = some.map(({ nodeId, path }): RatedNode => ({ nodeId, path, rights: [1] }));
      return groupNamed(nodes).map((group): GapGroup => ({ identity, right, gap, grade, ...group }));
    })
    .sort((left, right) => grades.indexOf(left.grade) - grades.indexOf(right.grade) || right.nodes - left.nodes);
}

const noGap: RightsGap = { nodeId: '', path: [], identity: '', right: 'read', gap: 'missing', grade: 'slight' };

/** All that is below the root is no name for a few nodes among many others: each keeps a path of its own at least. */
function groupNamed(nodes: readonly RatedNode[]): readonly Pick<GapGroup, 'pattern' | 'nodes' | 'example'>[] {
  // A node apart from all others keeps the root from being named as a whole.
  const apart: RatedNode = { nodeId: '', path: [], rights: [0] };
  return groupRights([...nodes, ...branchesOf(nodes), apart]).flatMap(({ pattern, nodes: count, rights, examples }) => {
    const [example] = examples;
    return rights[0] === 1 && example ? [{ pattern, nodes: count, example }] : [];
  });
}

/** The branches above nodes, as nodes of another kind: only what has the same name below them is named together. */
function branchesOf(nodes: readonly RatedNode[]): readonly RatedNode[] {
  const own = new Set(nodes.map(({ path }) => path.join('/')));
  const above = new Map<string, RatedNode>();
  for (const { path } of nodes)
    for (let length = 1; length < path.length; length += 1) {
      const key = path.slice(0, length).join('/');
      if (!own.has(key) && !above.has(key)) above.set(key, { nodeId: '', path: path.slice(0, length), rights: [0] });
    }
  return [...above.values()];
}
