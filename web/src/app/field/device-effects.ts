import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { EMPTY, concatMap, from, map, mergeMap, switchMap, takeUntil, tap } from 'rxjs';
import { saveFile } from '../files/save-file';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { deviceActions } from './device-state';

/** Where nobody answers, so many units take as many seconds: after each part it is seen how far it is, and others may be at the device. */
const unitsAtOnce = 4;
const partsOf = (last: number): { readonly from: number; readonly to: number }[] =>
  Array.from({ length: Math.ceil(last / unitsAtOnce) }, (_, index) => ({
    from: index * unitsAtOnce + 1,
    to: Math.min((index + 1) * unitsAtOnce, last),
  }));

@Injectable()
export class DeviceEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);

  readonly showAll = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.showAll),
      switchMap(() =>
        this.server.ask('devices').pipe(
          answered(
            ({ devices }) => deviceActions.allShown({ devices }),
            ({ problem }) => deviceActions.notShown({ view: 'devices', problem }),
          ),
        ),
      ),
    ),
  );

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.show),
      switchMap(({ deviceId }) =>
        this.server.ask('device', { path: { deviceId } }).pipe(
          answered(
            (device) => deviceActions.shown({ device }),
            ({ problem }) => deviceActions.notShown({ view: 'device', problem }),
          ),
        ),
      ),
    ),
  );

  readonly lookForServers = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.lookForServers),
      switchMap(({ find }) =>
        this.server.ask('plantChoices', { query: { of: 'servers', find } }).pipe(
          answered(
            (servers) => deviceActions.serversFound({ servers }),
            ({ problem }) => deviceActions.notShown({ view: 'servers', problem }),
          ),
        ),
      ),
    ),
  );

  readonly takeOrigins = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.takeOrigins),
      concatMap(({ serverId, wish }) =>
        this.server.ask('takeOrigins', { path: { serverId }, body: wish }).pipe(
          answered(
            (taken) => deviceActions.originsTaken({ taken }),
            ({ problem }) => deviceActions.failed({ command: 'import', problem }),
          ),
        ),
      ),
    ),
  );

  readonly saveOrigins = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.saveOrigins),
      concatMap(({ serverId }) =>
        this.server.ask('originsAsCsv', { path: { serverId } }).pipe(
          tap(({ csv }) => saveFile(`origins-${serverId}.csv`, 'text/csv', csv)),
          mergeMap(() => EMPTY),
          answered(
            () => deviceActions.showAll(),
            ({ problem }) => deviceActions.failed({ command: 'import', problem }),
          ),
        ),
      ),
    ),
  );

  readonly taken = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.originsTaken),
      map(() => deviceActions.showAll()),
    ),
  );

  /** Whoever leaves the page ends what they asked for. */
  readonly read = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.read),
      concatMap(({ deviceId, wish }) =>
        this.server.ask('readDevice', { path: { deviceId }, body: wish }).pipe(
          takeUntil(this.actions.pipe(ofType(deviceActions.leave))),
          answered(
            (reading) => deviceActions.wasRead({ first: wish.first, reading }),
            ({ problem }) => deviceActions.failed({ command: 'read', problem }),
          ),
        ),
      ),
    ),
  );

  readonly askUnits = createEffect(() =>
    this.actions.pipe(
      ofType(deviceActions.askUnits),
      concatMap(({ deviceId, port, last, by }) =>
        from(partsOf(last)).pipe(
          concatMap((part) => this.server.ask('askUnits', { path: { deviceId }, body: { port, ...part, ...by } })),
          takeUntil(this.actions.pipe(ofType(deviceActions.leave, deviceActions.stopUnits))),
          answered(
            (answer) => deviceActions.unitsTold({ answer }),
            ({ problem }) => deviceActions.failed({ command: 'units', problem }),
          ),
        ),
      ),
    ),
  );
}
