import { computed, inject, signal } from '@angular/core';
import type { Signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router } from '@angular/router';
import { filter, map } from 'rxjs';

/** What a table is sorted by. */
export interface Sort {
  /** The key of the column. */
  readonly by: string;
  readonly descending: boolean;
}

/** How a table is looked at. */
export interface TableView {
  readonly sort: Signal<Sort | null>;
  /** The keys of the columns that are hidden. */
  readonly hidden: Signal<readonly string[]>;
  sortBy(sort: Sort): void;
  hide(keys: readonly string[]): void;
}

/**
 * How a table is looked at, kept in the page’s address (`sort=-name`, `hide=uri,more`), so that it outlives a reload and can be
 * sent to somebody.
 * @param name null: the table is one of several and keeps it to itself
 */
export function tableView(name: Signal<string | null>): TableView {
  const router = inject(Router);
  const query = toSignal(
    router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      map(() => router.parseUrl(router.url).queryParamMap),
    ),
    { initialValue: router.parseUrl(router.url).queryParamMap },
  );
  const own = { sort: signal<Sort | null>(null), hidden: signal<readonly string[]>([]) };
  const write = (key: string, value: string): void => {
    void router.navigate([], {
      queryParams: { [keyFor(name(), key)]: value === '' ? null : value },
      queryParamsHandling: 'merge',
      replaceUrl: true,
    });
  };
  const read = (key: string): string => query().get(keyFor(name(), key)) ?? '';
  return {
    sort: computed(() => (name() === null ? own.sort() : sortFrom(read('sort')))),
    hidden: computed(() => (name() === null ? own.hidden() : read('hide').split(',').filter(Boolean))),
    sortBy: (sort) => (name() === null ? own.sort.set(sort) : write('sort', `${sort.descending ? '-' : ''}${sort.by}`)),
    hide: (keys) => (name() === null ? own.hidden.set(keys) : write('hide', keys.join(','))),
  };
}

const keyFor = (name: string | null, key: string): string => (name ? `${name}-${key}` : key);

const sortFrom = (text: string): Sort | null =>
  text === '' ? null : { by: text.replace(/^-/, ''), descending: text.startsWith('-') };
