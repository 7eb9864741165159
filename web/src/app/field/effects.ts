import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatMap, map, switchMap } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { linkActions } from '../links/state';
import { fieldActions } from './state';

@Injectable()
export class FieldEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);

  readonly lookForDevices = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.lookForDevices),
      switchMap(({ find }) =>
        this.server.ask('plantChoices', { query: { of: 'machines', find } }).pipe(
          answered(
            (devices) => fieldActions.devicesFound({ devices }),
            ({ problem }) => fieldActions.devicesNotFound({ problem }),
          ),
        ),
      ),
    ),
  );

  readonly edit = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.edit),
      map(() => fieldActions.lookForDevices({ find: '' })),
    ),
  );

  readonly save = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.save),
      concatMap(({ linkId, serverId, wish }) =>
        this.server.ask('putOrigin', { path: { serverId }, body: wish }).pipe(
          answered(
            ({ sharesWith }) =>
              fieldActions.done({
                command: 'save',
                linkId,
                says: sharesWith
                  ? `The origin of ${wish.path} is saved. ${sharesWith} comes from the same register: is that meant?`
                  : `The origin of ${wish.path} is saved. Check the link to compare the values.`,
              }),
            ({ problem }) => fieldActions.failed({ command: 'save', problem }),
          ),
        ),
      ),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.remove),
      concatMap(({ linkId, serverId, path }) =>
        this.server.ask('removeOrigins', { path: { serverId }, body: { paths: [path] } }).pipe(
          answered(
            () => fieldActions.done({ command: 'remove', linkId, says: `The origin of ${path} was removed.` }),
            ({ problem }) => fieldActions.failed({ command: 'remove', problem }),
          ),
        ),
      ),
    ),
  );

  /** The link’s page shows where its values come from. */
  readonly done = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.done),
      map(({ linkId }) => linkActions.open({ linkId })),
    ),
  );
}
