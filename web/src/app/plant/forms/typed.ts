import type { FormControl } from '@angular/forms';
import type { NeededItem } from '@loyal-hinge/core';
import { itemUses } from '@loyal-hinge/core';

/** `Furnace/Crown temperature: read, watch`; a colon inside a node id is left alone. */
export function neededItem(line: string): NeededItem {
  const colon = line.lastIndexOf(':');
  const uses =
    colon < 0
      ? []
      : line
          .slice(colon + 1)
          .split(',')
          .map((use) => use.trim());
  const known = itemUses.filter((use) => uses.includes(use));
  return known.length > 0 && known.length === uses.length
    ? { path: line.slice(0, colon).trim(), uses: known }
    : { path: line, uses: ['read', 'watch'] };
}

export const neededLine = ({ path, uses }: NeededItem): string => `${path}: ${uses.join(', ')}`;

/** A short id made of a name. */
export const idOf = (name: string): string =>
  name
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80);

/** The id of a new row is made of its name, until one is typed. */
export function followName(name: FormControl<string>, id: FormControl<string>): void {
  name.valueChanges.subscribe((typed) => {
    if (id.pristine) id.setValue(idOf(typed));
  });
}
