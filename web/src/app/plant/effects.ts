import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import type { Observable } from 'rxjs';
import { catchError, concatMap, exhaustMap, filter, map, of, switchMap } from 'rxjs';
import { shownProblem } from '../http/problem';
import { linkActions } from '../links/state';
import { PlantApi } from './api';
import { plantActions } from './state';
import { parsedJson } from '../http/parsed-json';

@Injectable()
export class PlantEffects {
  private readonly actions = inject(Actions);
  private readonly api = inject(PlantApi);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.load, plantActions.changed),
      switchMap(() =>
        this.api.read().pipe(
          map((plant) => plantActions.loaded({ plant })),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly hear = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      filter(({ event }) => event.kind === 'plant-changed'),
      map(() => plantActions.load()),
    ),
  );

  readonly save = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.save),
      exhaustMap(({ part, row }) =>
        this.api.put(part, row).pipe(
          map(() => plantActions.changed({ says: `${row.name} is kept.` })),
          catchError((error: unknown) => of(plantActions.saveFailed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.remove),
      exhaustMap(({ part, id }) =>
        this.api.remove(part, id).pipe(
          map(() => plantActions.changed({ says: `“${id}” was removed.` })),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly loadDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.loadDiscovery, plantActions.changed),
      switchMap(() =>
        this.api.discovery().pipe(
          map((discovery) => plantActions.discoveryLoaded({ discovery })),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly hearDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      filter(({ event }) => event.kind === 'discovery-changed'),
      map(() => plantActions.loadDiscovery()),
    ),
  );

  readonly beginDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.beginDiscovery),
      exhaustMap(({ wish }) =>
        this.api.beginDiscovery(wish).pipe(
          map((discovery) => plantActions.discoveryLoaded({ discovery })),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly stopDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.stopDiscovery),
      exhaustMap(() =>
        this.api.stopDiscovery().pipe(
          map(() => plantActions.loadDiscovery()),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly adopt = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.adopt),
      concatMap(({ machine, application }) => {
        const first: Observable<unknown> = machine ? this.api.put('machines', machine) : of(null);
        return first.pipe(
          switchMap(() => this.api.put('applications', application)),
          map(() => plantActions.changed({ says: `${application.name} is in the plant now.` })),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        );
      }),
    ),
  );

  readonly importDocument = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.importDocument),
      exhaustMap(({ text }) => {
        const document = parsedJson(text);
        if (document === null) return of(plantActions.failed({ problem: notJson }));
        return this.api.importDocument(document).pipe(
          map(() => plantActions.changed({ says: 'The plant was replaced by the file’s.' })),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        );
      }),
    ),
  );

  readonly importMachines = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.importMachines),
      exhaustMap(({ text }) =>
        this.api.importMachines(text).pipe(
          map(({ machines }) => plantActions.changed({ says: `${machines} machines were added or changed.` })),
          catchError((error: unknown) => of(plantActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );
}

const notJson = {
  title: 'Not valid',
  detail: 'The file is not well-formed JSON.',
  remedy: 'Choose a file that was exported here. Nothing was changed.',
  faults: [],
};
