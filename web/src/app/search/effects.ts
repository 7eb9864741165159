import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { catchError, map, of, switchMap } from 'rxjs';
import type { AnswerOf } from '@loyal-hinge/contract';
import { searchActions } from './state';

@Injectable()
export class SearchEffects {
  private readonly actions = inject(Actions);
  private readonly http = inject(HttpClient);

  /** What was looked for before is not waited for. */
  readonly look = createEffect(() =>
    this.actions.pipe(
      ofType(searchActions.look),
      switchMap(({ find }) =>
        this.http.get<AnswerOf<'search'>>('/api/search', { params: { find } }).pipe(
          map(({ hits }) => searchActions.found({ find, hits })),
          catchError(() => of(searchActions.failed({ find }))),
        ),
      ),
    ),
  );
}
