import { inject } from '@angular/core';
import { Router } from '@angular/router';

/** A part of the page’s address that may be missing. */
export const fromAddress = (value: string | undefined): string => value ?? '';

/** What a field or a choice holds, out of its event. */
export const valueOf = (event: Event): string => (event.target as HTMLInputElement | HTMLSelectElement).value;

/**
 * Writes what is filtered and chosen into the page’s address, so that back works. Empty values leave it;
 * words that are being typed don’t make a step of their own.
 */
export function addressWriter(): (query: Readonly<Record<string, string>>) => void {
  const router = inject(Router);
  return (query) => {
    const queryParams = Object.fromEntries(
      Object.entries(query).map(([key, value]) => [key, value === '' ? null : value]),
    );
    void router.navigate([], { queryParams, queryParamsHandling: 'merge', replaceUrl: 'find' in query });
  };
}
