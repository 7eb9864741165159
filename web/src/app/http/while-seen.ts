import { filter, map, timer } from 'rxjs';
import type { Observable } from 'rxjs';

/** Comes every so often, while somebody can see the page. */
export const whileSeen = (everyMs: number): Observable<void> =>
  timer(everyMs, everyMs).pipe(
    filter(() => !document.hidden),
    map(() => undefined),
  );
