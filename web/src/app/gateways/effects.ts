import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import {
  EMPTY,
  catchError,
  concatMap,
  debounceTime,
  exhaustMap,
  filter,
  groupBy,
  map,
  merge,
  mergeMap,
  switchMap,
  tap,
  timer,
  withLatestFrom,
} from 'rxjs';
import type { Observable } from 'rxjs';
import { saveFile } from '../files/save-file';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { whileSeen } from '../http/while-seen';
import { kindsHeard } from '../links/kinds-heard';
import { gatewayActions, gatewaysFeature } from './state';
import type { GatewayCommand } from './state';

/** How often a gateway, and its items, are looked at while somebody does. */
const lookMs = 5_000;
const itemsMs = 2_000;
/** Events that come close together are one reason to look. */
const gatherMs = 200;
export const itemsAtOnce = 20;
const likeAtOnce = 8;

@Injectable()
export class GatewayEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(gatewayActions.show),
      switchMap(() =>
        this.server.ask('gateways').pipe(
          answered(
            (view) => gatewayActions.shown({ view }),
            ({ problem }) => gatewayActions.notShown({ view: 'list', problem }),
          ),
        ),
      ),
    ),
  );

  readonly look = createEffect(() =>
    this.actions.pipe(
      ofType(gatewayActions.lookAt, gatewayActions.lookAgain, gatewayActions.leave),
      withLatestFrom(this.store.select(gatewaysFeature.selectGatewayId)),
      switchMap(([, gatewayId]) =>
        gatewayId === null
          ? EMPTY
          : this.server.ask('gateway', { path: { gatewayId } }).pipe(
              answered(
                (view) => gatewayActions.oneShown({ view }),
                ({ problem }) => gatewayActions.notShown({ view: 'one', problem }),
              ),
            ),
      ),
    ),
  );

  /** Whoever looks at a gateway sees how it goes. */
  readonly again = createEffect(() =>
    this.actions.pipe(
      ofType(gatewayActions.lookAt, gatewayActions.leave),
      switchMap((action) =>
        action.type === gatewayActions.leave.type
          ? EMPTY
          : whileSeen(lookMs).pipe(map(() => gatewayActions.lookAgain())),
      ),
    ),
  );

  /** What is looked for anew is asked at once; what is only looked at again waits for the answer before. */
  readonly items = createEffect(() =>
    this.actions.pipe(
      ofType(gatewayActions.lookAtItems, gatewayActions.leave),
      withLatestFrom(this.store.select(gatewaysFeature.selectGatewayId)),
      switchMap(([action, gatewayId]) => {
        const wish = action.type === gatewayActions.leave.type ? null : action.wish;
        if (wish === null || gatewayId === null) return EMPTY;
        return timer(0, itemsMs).pipe(
          filter((times) => times === 0 || !document.hidden),
          exhaustMap(() =>
            this.server.ask('gatewayItems', { path: { gatewayId }, query: { ...wish, count: itemsAtOnce } }).pipe(
              answered(
                (items) => gatewayActions.itemsShown({ items }),
                ({ problem }) => gatewayActions.notShown({ view: 'items', problem }),
              ),
            ),
          ),
        );
      }),
    ),
  );

  readonly seek = createEffect(() =>
    this.actions.pipe(
      ofType(gatewayActions.seek),
      groupBy(({ end }) => end),
      mergeMap((ofEnd) =>
        ofEnd.pipe(
          debounceTime(gatherMs),
          withLatestFrom(this.store.select(gatewaysFeature.selectGatewayId)),
          switchMap(([{ end, find }, gatewayId]) =>
            gatewayId === null
              ? EMPTY
              : this.server
                  .ask('gatewayItems', { path: { gatewayId }, query: { find, from: 0, count: likeAtOnce } })
                  .pipe(
                    map(({ items }) => gatewayActions.sought({ end, items })),
                    // Items can be written by hand where none can be proposed.
                    catchError(() => EMPTY),
                  ),
          ),
        ),
      ),
    ),
  );

  readonly changed = createEffect(() =>
    merge(
      kindsHeard(this.actions, 'outposts-changed', 'plant-changed', 'trust-changed'),
      this.actions.pipe(ofType(gatewayActions.done)),
    ).pipe(
      debounceTime(gatherMs),
      withLatestFrom(
        this.store.select(gatewaysFeature.selectGatewayId),
        this.store.select(gatewaysFeature.selectShown),
      ),
      mergeMap(([, gatewayId, list]) => [
        ...(gatewayId === null ? [] : [gatewayActions.lookAgain()]),
        ...(list ? [gatewayActions.show()] : []),
      ]),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(gatewayActions.command),
      concatMap(({ command }) =>
        this.carryOut(command).pipe(
          answered(
            (says) => gatewayActions.done({ command, says }),
            ({ problem }) => gatewayActions.failed({ command, problem }),
          ),
        ),
      ),
    ),
  );

  private carryOut(command: GatewayCommand): Observable<string> {
    const { server } = this;
    const path = { gatewayId: command.id ?? '' };
    switch (command.does) {
      case 'save': {
        const { id, wish } = command;
        const says = `${wish.name} was saved.`;
        return id === null
          ? server.ask('addGateway', { body: wish }).pipe(
              tap((added) => void this.router.navigate(['/passage/gateways', added.id])),
              map(() => says),
            )
          : server.ask('putGateway', { path, body: wish }).pipe(map(() => says));
      }
      case 'remove':
        return server.ask('removeGateway', { path }).pipe(
          tap(() => void this.router.navigate(['/passage/gateways'])),
          map(() => `${command.name} was removed.`),
        );
      case 'save places':
        return server
          .ask('putGatewayPlaces', { path, body: { places: [...command.places] } })
          .pipe(map(() => 'The places were saved, and are told to the gateway.'));
      case 'save relay': {
        const { relayId, wish } = command;
        const says = `${wish.to.path} gets its value from ${wish.from.path} from now on.`;
        return relayId === null
          ? server.ask('addRelay', { path, body: wish }).pipe(map(() => says))
          : server.ask('putRelay', { path: { ...path, relayId }, body: wish }).pipe(map(() => says));
      }
      case 'remove relay':
        return server
          .ask('removeRelay', { path: { ...path, relayId: command.relayId } })
          .pipe(map(() => 'The relay was removed. Its item keeps the value that it has.'));
      case 'import relays':
        return server
          .ask('importRelays', { path, body: { csv: command.csv } })
          .pipe(map(({ relays }) => `${relays} ${relays === 1 ? 'relay was' : 'relays were'} imported.`));
      case 'export relays':
        return server.ask('relaysCsv', { path }).pipe(
          tap(({ csv }) => saveFile(`relays-${path.gatewayId}.csv`, 'text/csv', csv)),
          map(() => 'The relays were saved as CSV.'),
        );
    }
  }
}
