import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { exhaustMap, map, switchMap, withLatestFrom } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { trailActions, trailFeature } from './state';

@Injectable()
export class TrailEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  /** A newer question makes the answer to an older one worthless. */
  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(trailActions.show, trailActions.showOlder),
      withLatestFrom(this.store.select(trailFeature.selectTrailState)),
      map(([action, { query, next }]) =>
        action.type === trailActions.show.type || next === null ? query : { ...query, before: String(next) },
      ),
      switchMap((query) =>
        this.server
          .ask('audit', { query })
          .pipe(answered((page) => trailActions.loaded({ page, query }), trailActions.failed)),
      ),
    ),
  );

  readonly verify = createEffect(() =>
    this.actions.pipe(
      ofType(trailActions.verify),
      exhaustMap(() =>
        this.server
          .ask('verifyAudit')
          .pipe(answered((report) => trailActions.verified({ report }), trailActions.failed)),
      ),
    ),
  );
}
