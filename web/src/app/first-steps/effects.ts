import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { EMPTY, catchError, filter, map, switchMap, withLatestFrom } from 'rxjs';
import { nextFirstStep } from '@loyal-hinge/core';
import { Server } from '../http/server';
import { linkActions } from '../links/state';
import { firstStepsActions, firstStepsFeature } from './state';

@Injectable()
export class FirstStepsEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  /** A guide that can't be had leaves the page as it is: the page itself shows what is wrong. */
  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(firstStepsActions.load),
      switchMap(() =>
        this.server.ask('firstSteps').pipe(
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
