import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { EMPTY, catchError, filter, map, switchMap, withLatestFrom } from 'rxjs';
import type { AnswerOf } from '@loyal-hinge/contract';
import { nextFirstStep } from '@loyal-hinge/core';
import { linkActions } from '../links/state';
import { firstStepsActions, firstStepsFeature } from './state';

@Injectable()
export class FirstStepsEffects {
  private readonly actions = inject(Actions);
  private readonly http = inject(HttpClient);
  private readonly store = inject(Store);

  /** A guide that can't be had leaves the page as it is: the page itself shows what is wrong. */
  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(firstStepsActions.load),
      switchMap(() =>
        this.http.get<AnswerOf<'firstSteps'>>('/api/first-steps').pipe(
          map(({ steps }) => firstStepsActions.loaded({ steps })),
          catchError(() => EMPTY),
        ),
      ),
    ),
  );

  /** Whatever may have done one of them. */
  readonly again = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      filter(({ event }) => ['plant-changed', 'trust-changed', 'check-ended'].includes(event.kind)),
      withLatestFrom(this.store.select(firstStepsFeature.selectSteps)),
      filter(([, steps]) => steps !== null && nextFirstStep(steps) !== null),
      map(() => firstStepsActions.load()),
    ),
  );
}
