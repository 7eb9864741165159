import type { ItemUse, LinkInPlant, NeededItem } from '../plant/plant.js';
import type { FactBook } from './facts.js';

/** A link whose needs by pattern are the items that a check found to fit, so that each is judged for itself. */
export function withExpandedNeeds(subject: LinkInPlant, facts: FactBook): LinkInPlant {
  const found = new Map(facts.all('item-pattern').map(({ pattern, paths }) => [pattern, paths]));
  if (found.size === 0) return subject;
  return { ...subject, link: { ...subject.link, needs: expandedNeeds(subject.link.needs, found) } };
}

/** An item that several needs lead to is needed for all that they say. @param found paths by pattern */
export function expandedNeeds(
  needs: readonly NeededItem[],
  found: ReadonlyMap<string, readonly string[]>,
): readonly NeededItem[] {
  const uses = new Map<string, Set<ItemUse>>();
  for (const need of needs) {
    const fitting = found.get(need.path) ?? [];
    for (const path of fitting.length > 0 ? fitting : [need.path])
      uses.set(path, new Set([...(uses.get(path) ?? []), ...need.uses]));
  }
  return [...uses].map(([path, all]) => ({ path, uses: [...all] }));
}
