import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { EMPTY, concatMap, map, mergeMap, switchMap, takeUntil, takeWhile } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { whileSeen } from '../http/while-seen';
import { linkActions } from '../links/state';
import { fieldActions } from './state';

/** A search that goes on is looked at as often. */
const lookMs = 1500;

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

  readonly saveMany = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.saveMany),
      concatMap(({ linkId, serverId, wish, says }) =>
        this.server.ask('putOriginPattern', { path: { serverId }, body: wish }).pipe(
          answered(
            () => fieldActions.done({ command: 'save', linkId, says }),
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

  readonly showSearches = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.showSearches),
      switchMap(({ linkId }) =>
        this.server.ask('registerSearches', { path: { linkId } }).pipe(
          answered(
            ({ searches }) => fieldActions.searchesShown({ searches }),
            ({ problem }) => fieldActions.searchesNotShown({ problem }),
          ),
        ),
      ),
    ),
  );

  readonly search = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.search),
      concatMap(({ linkId, wish }) =>
        this.server.ask('searchRegister', { path: { linkId }, body: wish }).pipe(
          answered(
            (search) => fieldActions.searchGoesOn({ search }),
            ({ problem }) => fieldActions.failed({ command: 'search', problem }),
          ),
        ),
      ),
    ),
  );

  /** What came of it is seen by whoever follows it. */
  readonly endSearch = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.endSearch),
      mergeMap(({ id }) =>
        this.server.ask('stopRegisterSearch', { path: { searchId: id } }).pipe(
          switchMap(() => this.server.ask('registerSearch', { path: { searchId: id } })),
          answered(
            (search) => fieldActions.searchGoesOn({ search }),
            ({ problem }) => fieldActions.failed({ command: 'end search', problem }),
          ),
        ),
      ),
    ),
  );

  /** As long as one goes on and somebody looks. */
  readonly follow = createEffect(() =>
    this.actions.pipe(
      ofType(fieldActions.searchesShown, fieldActions.searchGoesOn),
      map((action) =>
        'searches' in action ? action.searches.find(({ state }) => state === 'running') : action.search,
      ),
      switchMap((search) =>
        search?.state === 'running'
          ? whileSeen(lookMs).pipe(
              takeUntil(this.actions.pipe(ofType(fieldActions.leaveSearches))),
              concatMap(() =>
                this.server.ask('registerSearch', { path: { searchId: search.id } }).pipe(
                  answered(
                    (told) => fieldActions.searchGoesOn({ search: told }),
                    ({ problem }) => fieldActions.searchesNotShown({ problem }),
                  ),
                ),
              ),
              takeWhile((action) => action.type === fieldActions.searchGoesOn.type, true),
            )
          : EMPTY,
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
