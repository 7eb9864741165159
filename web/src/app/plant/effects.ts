import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Choosable } from '@loyal-hinge/contract';
import type { Observable } from 'rxjs';
import {
  concatMap,
  debounceTime,
  exhaustMap,
  filter,
  groupBy,
  map,
  mergeMap,
  of,
  switchMap,
  withLatestFrom,
} from 'rxjs';
import { answered } from '../http/answered';
import { linkActions } from '../links/state';
import { PlantApi } from './api';
import { plantActions, plantFeature } from './state';
import type { PlantPart } from './state';
import { parsedJson } from '../http/parsed-json';

/** Words that are being typed are not looked for yet. */
const typedMs = 60;

/** What rows of each part are put on, or lead to. */
const choosableIn: Readonly<Record<PlantPart, readonly Choosable[]>> = {
  zones: [],
  machines: [],
  applications: ['machines'],
  links: ['clients', 'servers'],
};

@Injectable()
export class PlantEffects {
  private readonly actions = inject(Actions);
  private readonly api = inject(PlantApi);
  private readonly store = inject(Store);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.look, plantActions.load, plantActions.changed),
      debounceTime(typedMs),
      withLatestFrom(this.store.select(plantFeature.selectWish)),
      switchMap(([, wish]) =>
        this.api.view(wish).pipe(answered((view) => plantActions.loaded({ wish, view }), plantActions.failed)),
      ),
    ),
  );

  /** What the form that opens offers. */
  readonly offer = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.edit),
      mergeMap(({ part }) => choosableIn[part].map((of) => plantActions.lookFor({ of, find: '' }))),
    ),
  );

  readonly lookFor = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.lookFor),
      groupBy(({ of }) => of),
      mergeMap((asked) =>
        asked.pipe(
          debounceTime(typedMs),
          switchMap(({ of, find }) =>
            this.api
              .choices(of, find)
              .pipe(answered((choices) => plantActions.found({ of, choices }), plantActions.failed)),
          ),
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

  readonly hearProgress = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      map(({ event }) => event),
      filter((event) => event.kind === 'import-progress'),
      map(({ doing, done, total }) => plantActions.importProgress({ far: { doing, done, total } })),
    ),
  );

  readonly save = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.save),
      exhaustMap(({ part, row }) =>
        this.api
          .put(part, row)
          .pipe(answered(() => plantActions.changed({ says: `${row.name} was saved.` }), plantActions.saveFailed)),
      ),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.remove),
      exhaustMap(({ part, id }) =>
        this.api
          .remove(part, id)
          .pipe(answered(() => plantActions.changed({ says: `“${id}” was removed.` }), plantActions.failed)),
      ),
    ),
  );

  readonly loadDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.loadDiscovery, plantActions.changed),
      switchMap(() =>
        this.api
          .discovery()
          .pipe(answered((discovery) => plantActions.discoveryLoaded({ discovery }), plantActions.failed)),
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
        this.api
          .beginDiscovery(wish)
          .pipe(answered((discovery) => plantActions.discoveryLoaded({ discovery }), plantActions.failed)),
      ),
    ),
  );

  readonly stopDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.stopDiscovery),
      exhaustMap(() =>
        this.api.stopDiscovery().pipe(answered(() => plantActions.loadDiscovery(), plantActions.failed)),
      ),
    ),
  );

  readonly adopt = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.adopt),
      concatMap(({ zone, machine, application }) => {
        const first: Observable<unknown> = zone ? this.api.put('zones', zone) : of(null);
        return first.pipe(
          switchMap((): Observable<unknown> => (machine ? this.api.put('machines', machine) : of(null))),
          switchMap(() => this.api.put('applications', application)),
          answered(
            () => plantActions.changed({ says: `${application.name} is in the plant now.` }),
            plantActions.failed,
          ),
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
          answered(
            ({ waitsAs }) =>
              plantActions.changed({
                says:
                  waitsAs === null
                    ? 'The plant was replaced by the file’s.'
                    : 'Nothing is changed yet: another person must accept the file, under Work orders.',
              }),
            plantActions.failed,
          ),
        );
      }),
    ),
  );

  readonly importMachines = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.importMachines),
      exhaustMap(({ text }) =>
        this.api
          .importMachines(text)
          .pipe(
            answered(
              ({ machines }) => plantActions.changed({ says: `${machines} machines were added or changed.` }),
              plantActions.failed,
            ),
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
