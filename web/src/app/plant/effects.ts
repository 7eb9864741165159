import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { BodyOf, Choosable, DiscoveryState } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';
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
import { Server } from '../http/server';
import { linkActions } from '../links/state';
import { plantActions, plantFeature } from './state';
import type { PlantDoes, PlantPart, PlantRow } from './state';
import { notJson, parsedJson } from '../http/parsed-json';

/** Words that are being typed are not looked for yet. */
const typedMs = 60;

const putting = { zones: 'putZone', machines: 'putMachine', applications: 'putApplication', links: 'putLink' } as const;
const removing = {
  zones: 'removeZone',
  machines: 'removeMachine',
  applications: 'removeApplication',
  links: 'removeLink',
} as const;

/** What rows of each part are put on, or lead to. */
const choosableIn: Readonly<Record<PlantPart, readonly Choosable[]>> = {
  zones: [],
  machines: [],
  applications: ['machines'],
  links: ['clients', 'servers', 'userCertificates'],
};

@Injectable()
export class PlantEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.look, plantActions.load, plantActions.changed),
      debounceTime(typedMs),
      withLatestFrom(this.store.select(plantFeature.selectWish)),
      switchMap(([, wish]) =>
        this.server
          .ask('plantView', { query: wish })
          .pipe(answered((view) => plantActions.loaded({ wish, view }), plantActions.notLoaded)),
      ),
    ),
  );

  /** What the form that opens offers. */
  readonly offer = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.edit),
      mergeMap(({ editing: { part } }) => choosableIn[part].map((of) => plantActions.lookFor({ of, find: '' }))),
    ),
  );

  /** Where it can’t be looked up, nothing is said of it: what is being typed matters more. */
  readonly lookUp = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.lookUp),
      switchMap(({ wish: { serverId, ...body } }) =>
        this.server.ask('rightsMatches', { path: { serverId }, body }).pipe(
          answered(
            (matches) => plantActions.lookedUp({ matches }),
            () => plantActions.lookedUp({ matches: null }),
          ),
        ),
      ),
    ),
  );

  readonly lookFor = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.lookFor),
      groupBy(({ of }) => of),
      mergeMap((asked) =>
        asked.pipe(
          debounceTime(typedMs),
          switchMap(({ of, find, speaks }) =>
            this.server
              .ask('plantChoices', { query: { of, find, ...(speaks ? { speaks } : {}) } })
              .pipe(answered((choices) => plantActions.found({ of, choices }), plantActions.notLoaded)),
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
      exhaustMap(({ part, row }) => this.told('save', `${row.name} was saved.`, this.put(part, row))),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.remove),
      exhaustMap(({ part, id }) =>
        this.told('remove', `“${id}” was removed.`, this.server.ask(removing[part], { path: { id } })),
      ),
    ),
  );

  readonly loadDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.loadDiscovery, plantActions.changed),
      switchMap(() =>
        this.server
          .ask('discovery')
          .pipe(answered((discovery) => plantActions.discoveryLoaded({ discovery }), plantActions.notLoaded)),
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
      exhaustMap(({ wish }) => this.turned('begin discovery', this.server.ask('beginDiscovery', { body: wish }))),
    ),
  );

  readonly stopDiscovery = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.stopDiscovery),
      exhaustMap(() =>
        this.turned(
          'stop discovery',
          this.server.ask('stopDiscovery').pipe(switchMap(() => this.server.ask('discovery'))),
        ),
      ),
    ),
  );

  readonly adopt = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.adopt),
      concatMap(({ zone, machine, application }) => {
        const first: Observable<unknown> = zone ? this.put('zones', zone) : of(null);
        return this.told(
          'adopt',
          `${application.name} was added to the plant.`,
          first.pipe(
            switchMap((): Observable<unknown> => (machine ? this.put('machines', machine) : of(null))),
            switchMap(() => this.put('applications', application)),
          ),
        );
      }),
    ),
  );

  /** A field device is a machine; which items come from it is stated at links. */
  readonly adoptDevice = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.adoptDevice),
      concatMap(({ zone, machine }) => {
        const first: Observable<unknown> = zone ? this.put('zones', zone) : of(null);
        return this.told(
          'adopt',
          `${machine.name} was added to the plant.`,
          first.pipe(switchMap(() => this.put('machines', machine))),
        );
      }),
    ),
  );

  readonly importDocument = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.importDocument),
      exhaustMap(({ text }) => {
        const document = parsedJson(text);
        if (document === null) return of(plantActions.failed({ does: 'import document', problem: notJson }));
        // Whatever the file holds: the server says what is wrong with it.
        return this.server.ask('importPlant', { body: document as BodyOf<'importPlant'> }).pipe(
          answered(
            ({ waitsAs }) =>
              plantActions.changed({
                does: 'import document',
                says:
                  waitsAs === null
                    ? 'The plant was replaced by the one in the file.'
                    : 'Nothing is changed yet: another person must accept the file under Work orders.',
              }),
            failed('import document'),
          ),
        );
      }),
    ),
  );

  readonly importMachines = createEffect(() =>
    this.actions.pipe(
      ofType(plantActions.importMachines),
      exhaustMap(({ text }) =>
        this.server.ask('importMachines', { body: { csv: text } }).pipe(
          answered(
            ({ machines }) =>
              plantActions.changed({
                does: 'import machines',
                says: byNumber(machines, '# machine was added or changed.', '# machines were added or changed.'),
              }),
            failed('import machines'),
          ),
        ),
      ),
    ),
  );

  private told(does: PlantDoes, says: string, asked: Observable<unknown>) {
    return asked.pipe(answered(() => plantActions.changed({ does, says }), failed(does)));
  }

  private turned(does: PlantDoes, asked: Observable<DiscoveryState>) {
    return asked.pipe(answered((discovery) => plantActions.discoveryTurned({ does, discovery }), failed(does)));
  }

  private put(part: PlantPart, row: PlantRow): Observable<PlantRow> {
    return this.server.ask(putting[part], { path: { id: row.id }, body: row });
  }
}

const failed =
  (does: PlantDoes) =>
  ({ problem }: { problem: ShownProblem }) =>
    plantActions.failed({ does, problem });
