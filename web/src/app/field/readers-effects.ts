import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { switchMap } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { readersActions } from './readers-state';

@Injectable()
export class ReadersEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(readersActions.show),
      switchMap(({ deviceId }) =>
        this.server.ask('deviceReaders', { path: { deviceId } }).pipe(
          answered(
            (readers) => readersActions.shown({ readers }),
            ({ problem }) => readersActions.notShown({ problem }),
          ),
        ),
      ),
    ),
  );
}
