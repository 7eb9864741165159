import { fitsPattern, isPatternFault, itemPattern } from '../rights/item-pattern.js';
import type { ItemPattern } from '../rights/item-pattern.js';

/** Which items of a source are shown, and where in the gateway’s own name space. */
export interface PlaceRule {
  /** The source, by its name. */
  readonly source: string;
  /** A pattern for paths at the source; the first rule that fits decides. */
  readonly items: string;
  /** The domain under which they are shown, such as “Hot End”. */
  readonly domain: string;
  /** So many of the first parts of the path are left out within the domain. */
  readonly withoutFirst: number;
  /** Whether they may be written through the gateway. */
  readonly isWritable: boolean;
}

export interface Place {
  readonly domain: string;
  /** Below the domain, parts divided by `/`. */
  readonly path: string;
  readonly isWritable: boolean;
}

/** Says where an item of a source is shown; null: it is not. */
export type PlaceOf = (source: string, path: readonly string[]) => Place | null;

/** The places of items by some rules, whose patterns are read once. A rule whose pattern can’t be read fits nothing. */
export function placesBy(rules: readonly PlaceRule[]): PlaceOf {
  const bySource = new Map<string, { readonly rule: PlaceRule; readonly pattern: ItemPattern }[]>();
  for (const rule of rules) {
    const pattern = itemPattern(rule.items);
    if (isPatternFault(pattern)) continue;
    bySource.set(rule.source, [...(bySource.get(rule.source) ?? []), { rule, pattern }]);
  }
  return (source, path) => {
    const found = bySource.get(source)?.find(({ pattern }) => fitsPattern(pattern, path));
    if (!found) return null;
    const { domain, withoutFirst, isWritable } = found.rule;
    return { domain, path: path.slice(Math.min(withoutFirst, path.length - 1)).join('/'), isWritable };
  };
}

/** Items that would have the same place, by that place; none of them can be shown. */
export function collisionsAmong<Placed extends { readonly place: Place | null }>(
  items: readonly Placed[],
): ReadonlyMap<string, readonly Placed[]> {
  const at = new Map<string, Placed[]>();
  for (const item of items) {
    if (!item.place) continue;
    const key = `${item.place.domain}/${item.place.path}`;
    at.set(key, [...(at.get(key) ?? []), item]);
  }
  return new Map([...at].filter(([, found]) => found.length > 1));
}
