import type { ItemUse } from '../plant/plant.js';
import { fitsPattern, isPatternFault, itemPattern } from './item-pattern.js';
import type { ItemPattern } from './item-pattern.js';
import { rightBit } from './node-rights.js';
import type { RightBits } from './node-rights.js';
import type { RatedNode } from './group-rights.js';

/** Somebody who signs in at a server, with what the links need that sign in so. */
export interface RatedIdentity {
  readonly name: string;
  readonly isAnonymous: boolean;
  readonly needs: readonly { readonly path: string; readonly uses: readonly ItemUse[] }[];
}

/** What somebody may do with a node and need not, or needs and may not. */
export interface RightsGap {
  readonly nodeId: string;
  readonly path: readonly string[];
  readonly identity: string;
  readonly right: 'read' | 'write';
  readonly gap: 'missing' | 'excess';
  /** The gravest first: what anybody without a name may write. */
  readonly grade: 'grave' | 'weak' | 'slight';
}

const needed: Readonly<Record<ItemUse, 'read' | 'write'>> = { read: 'read', watch: 'read', write: 'write' };
const grades = ['grave', 'weak', 'slight'] as const;

/**
 * Compares what identities may do with nodes with what their links need. That more may be read than is needed is slight for
 * somebody with a name, and told only where nothing there is needed by anybody; that more may be written is weak, and grave
 * where it needs no name.
 */
export function rightsGaps(nodes: readonly RatedNode[], identities: readonly RatedIdentity[]): readonly RightsGap[] {
  const wishes = identities.map(({ needs }) => wishesOf(needs));
  const gaps: RightsGap[] = [];
  for (const { nodeId, path, rights } of nodes)
    identities.forEach(({ name: identity, isAnonymous }, index) => {
      const has = rights[index] ?? 0;
      const wants = wishes[index]?.(path) ?? 0;
      for (const right of ['read', 'write'] as const) {
        const [may, must] = [has & rightBit(right), wants & rightBit(right)].map((bits) => bits !== 0);
        if (must && !may) gaps.push({ nodeId, path, identity, right, gap: 'missing', grade: 'grave' });
        if (may && !must && (right === 'write' || isAnonymous))
          gaps.push({ nodeId, path, identity, right, gap: 'excess', grade: excessGrade(right, isAnonymous) });
      }
    });
  return gaps.sort((left, right) => grades.indexOf(left.grade) - grades.indexOf(right.grade));
}

const excessGrade = (right: 'read' | 'write', isAnonymous: boolean): RightsGap['grade'] =>
  right === 'write' ? (isAnonymous ? 'grave' : 'weak') : 'slight';

/** The rights that some needs want on a path. */
function wishesOf(needs: RatedIdentity['needs']): (path: readonly string[]) => RightBits {
  const exact = new Map<string, RightBits>();
  const patterns: { readonly pattern: ItemPattern; readonly bits: RightBits }[] = [];
  for (const { path, uses } of needs) {
    const bits = uses.reduce((all, use) => all | rightBit(needed[use]), 0);
    const pattern = itemPattern(path);
    if (/[*?[\\]/.test(path) && !isPatternFault(pattern)) patterns.push({ pattern, bits });
    else exact.set(path, (exact.get(path) ?? 0) | bits);
  }
  return (path) =>
    patterns.reduce(
      (all, { pattern, bits }) => (fitsPattern(pattern, path) ? all | bits : all),
      exact.get(path.join('/')) ?? 0,
    );
}
