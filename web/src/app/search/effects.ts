import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { catchError, map, of, switchMap } from 'rxjs';
import { Server } from '../http/server';
import { searchActions } from './state';

@Injectable()
export class SearchEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);

  /** What was looked for before is not waited for. */
  readonly look = createEffect(() =>
    this.actions.pipe(
      ofType(searchActions.look),
      switchMap(({ find }) =>
        this.server.ask('search', { query: { find } }).pipe(
          map(({ hits }) => searchActions.found({ find, hits })),
          catchError(() => of(searchActions.failed({ find }))),
        ),
      ),
    ),
  );
}
