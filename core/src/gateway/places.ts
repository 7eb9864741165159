import { fitsPattern, isPatternFault, itemPattern } from '../rights/item-pattern.js';

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

/** Where an item of a source is shown; null: it is not. */
export function gatewayPlaceOf(rules: readonly PlaceRule[], source: string, path: readonly string[]): Place | null {
  for (const rule of rules) {
    if (rule.source !== source) continue;
    const pattern = itemPattern(rule.items);
    if (isPatternFault(pattern) || !fitsPattern(pattern, path)) continue;
    const rest = path.slice(Math.min(rule.withoutFirst, path.length - 1));
    return { domain: rule.domain, path: rest.join('/'), isWritable: rule.isWritable };
  }
  return null;
}

/** Places that two items would have; each is told with the items that collide. */
export function placeCollisionsOf(
  rules: readonly PlaceRule[],
  items: readonly { readonly source: string; readonly path: readonly string[] }[],
): readonly { readonly place: string; readonly items: readonly string[] }[] {
  const at = new Map<string, string[]>();
  for (const { source, path } of items) {
    const place = gatewayPlaceOf(rules, source, path);
    if (!place) continue;
    const key = `${place.domain}/${place.path}`;
    at.set(key, [...(at.get(key) ?? []), `${source}: ${path.join('/')}`]);
  }
  return [...at].flatMap(([place, found]) => (found.length > 1 ? [{ place, items: found }] : []));
}
