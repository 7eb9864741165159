import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import { EMPTY, concatMap, exhaustMap, map, switchMap, withLatestFrom } from 'rxjs';
import type { Choice } from '../forms/choose';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import type { ShownProblem } from '../http/problem';
import { kindsHeard } from '../links/kinds-heard';
import { entryActions, entryFeature } from './state';
import type { EntryCommand, EntryViewName } from './state';

/** So many are offered at once to choose from. */
const mostOffered = 20;

@Injectable()
export class EntryEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  /** Doors hang on endpoints, links, clients and the floor: whichever changes, what is looked at is asked for again. */
  readonly changed = createEffect(() =>
    kindsHeard(this.actions, 'entry-changed', 'plant-changed').pipe(map(() => entryActions.showAgain())),
  );

  readonly doors = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.showDoors, entryActions.showAgain),
      withLatestFrom(this.store.select(entryFeature.selectWish)),
      switchMap(([, wish]) =>
        wish === null
          ? EMPTY
          : this.server
              .ask('entry', { query: wish })
              .pipe(answered((doors) => entryActions.doorsShown({ doors }), notShown('doors'))),
      ),
    ),
  );

  readonly closing = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.showClosing, entryActions.showAgain),
      withLatestFrom(this.store.select(entryFeature.selectWish)),
      switchMap(([{ type }, wish]) =>
        wish === null && type !== entryActions.showClosing.type
          ? EMPTY
          : this.server
              .ask('entryClosing')
              .pipe(answered((closing) => entryActions.closingShown({ closing }), notShown('closing'))),
      ),
    ),
  );

  readonly turns = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.tryOut, entryActions.showAgain),
      withLatestFrom(this.store.select(entryFeature.selectRules)),
      switchMap(([, rules]) =>
        rules.length === 0
          ? EMPTY
          : this.server
              .ask('doorWhatIf', { body: { rules } })
              .pipe(answered((turns) => entryActions.turnsShown({ turns }), notShown('turns'))),
      ),
    ),
  );

  readonly floors = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.showFloors, entryActions.showAgain, entryActions.done),
      withLatestFrom(this.store.select(entryFeature.selectFloors)),
      switchMap(([{ type }, floors]) =>
        floors === null && type !== entryActions.showFloors.type
          ? EMPTY
          : this.server
              .ask('entryFloors')
              .pipe(answered((known) => entryActions.floorsShown({ floors: known }), notShown('floors'))),
      ),
    ),
  );

  readonly subjects = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.lookForSubjects),
      switchMap(({ of, find }) =>
        (of === 'server' ? this.serversNamed(find) : this.linksNamed(find)).pipe(
          answered((subjects) => entryActions.subjectsFound({ subjects }), notShown('floors')),
        ),
      ),
    ),
  );

  private serversNamed(find: string): Observable<readonly Choice[]> {
    return this.server
      .ask('entry', { query: { find, most: mostOffered } })
      .pipe(map(({ servers }) => servers.map(({ id, name }) => ({ key: id, word: name }))));
  }

  private linksNamed(find: string): Observable<readonly Choice[]> {
    return this.server
      .ask('links', { query: { find, most: mostOffered } })
      .pipe(map(({ rows }) => rows.map(({ id, name }) => ({ key: id, word: name }))));
  }

  readonly saveFloor = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.saveFloor),
      exhaustMap(({ floor }) =>
        this.server.ask('putEntryFloor', { body: floor }).pipe(
          answered(
            ({ waitsAs }) =>
              entryActions.done({
                does: 'save floor',
                says:
                  waitsAs === null
                    ? 'What the plant accepts was saved. The next checks use it.'
                    : 'It waits for a second person, who accepts it under Work orders.',
              }),
            failed('save floor'),
          ),
        ),
      ),
    ),
  );

  readonly addException = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.addException),
      exhaustMap(({ wish }) =>
        this.server.ask('giveException', { body: wish }).pipe(
          answered(
            ({ exception }) =>
              entryActions.done({
                does: 'add exception',
                says: exception
                  ? `The exception for ${exception.subject} was added. Its links are checked.`
                  : 'It waits for a second person, who accepts it under Work orders.',
              }),
            failed('add exception'),
          ),
        ),
      ),
    ),
  );

  readonly endException = createEffect(() =>
    this.actions.pipe(
      ofType(entryActions.endException),
      concatMap(({ id }) =>
        this.server.ask('endException', { path: { id } }).pipe(
          answered(
            ({ subject }) =>
              entryActions.done({
                does: 'end exception',
                says: `The exception for ${subject} has ended. Its links are checked.`,
              }),
            failed('end exception'),
          ),
        ),
      ),
    ),
  );
}

const notShown =
  (view: EntryViewName) =>
  ({ problem }: { problem: ShownProblem }) =>
    entryActions.notShown({ view, problem });

const failed =
  (does: EntryCommand) =>
  ({ problem }: { problem: ShownProblem }) =>
    entryActions.failed({ does, problem });
