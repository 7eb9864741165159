import { fitsWords } from '@loyal-hinge/core';
import type { SearchHit } from '@loyal-hinge/contract';

/** Something that can be gone to, or done. */
export interface Found {
  readonly name: string;
  /** What tells it from others of its name. */
  readonly about: string;
  /** Where it is; null: it is done at once. */
  readonly way: Way | null;
  /** The keys of what is done. */
  readonly keys: string;
}

export interface Way {
  readonly path: readonly string[];
  readonly query: Readonly<Record<string, string>>;
}

export interface FoundGroup {
  readonly label: string;
  readonly items: readonly Found[];
}

const titles: Readonly<Record<SearchHit['kind'], string>> = {
  machine: 'Machines',
  application: 'Applications',
  link: 'Links',
  certificate: 'Certificates',
  'work order': 'Work orders',
};

/** Pages and actions whose names fit, and then what the server found, kind by kind. */
export function foundGroups(
  find: string,
  pages: readonly Found[],
  actions: readonly Found[],
  hits: readonly SearchHit[],
): readonly FoundGroup[] {
  const fits = fitsWords(find);
  const named = (all: readonly Found[]): readonly Found[] => all.filter(({ name }) => fits(name));
  const kinds = Object.entries(titles).map(([kind, label]) => ({
    label,
    items: hits.filter((hit) => hit.kind === kind).map((hit) => ({ ...hit, way: wayTo(hit), keys: '' })),
  }));
  return [{ label: 'Pages', items: named(pages) }, { label: 'Actions', items: named(actions) }, ...kinds].filter(
    ({ items }) => items.length > 0,
  );
}

export function wayTo({ kind, id, name }: SearchHit): Way {
  switch (kind) {
    case 'machine':
      return { path: ['/plant'], query: { part: 'machines', find: name } };
    case 'application':
      return { path: ['/trust/lists', id], query: {} };
    case 'link':
      return { path: ['/links', id], query: {} };
    case 'certificate':
      return { path: ['/trust/certificates', id], query: {} };
    case 'work order':
      return { path: ['/orders', id], query: {} };
  }
}
