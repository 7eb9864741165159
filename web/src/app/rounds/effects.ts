import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { concatMap, mergeMap, switchMap, withLatestFrom } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { kindsHeard } from '../links/kinds-heard';
import { roundsActions, roundsFeature } from './state';

@Injectable()
export class RoundsEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.show),
      switchMap(() =>
        this.server.ask('rounds').pipe(
          answered(
            (view) => roundsActions.shown({ view }),
            ({ problem }) => roundsActions.notShown({ view: 'view', problem }),
          ),
        ),
      ),
    ),
  );

  readonly lookBack = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.lookBack),
      switchMap(({ wish: { days, find } }) =>
        this.server.ask('timeline', { query: { days, find } }).pipe(
          answered(
            (timeline) => roundsActions.timelineShown({ timeline }),
            ({ problem }) => roundsActions.notShown({ view: 'timeline', problem }),
          ),
        ),
      ),
    ),
  );

  /** A round was changed or began, or a check has seen a link. */
  readonly changed = createEffect(() =>
    kindsHeard(this.actions, 'rounds-changed', 'check-ended', 'plant-changed').pipe(
      withLatestFrom(
        this.store.select(roundsFeature.selectWish),
        this.store.select(roundsFeature.selectShown),
        this.store.select(roundsFeature.selectShownRecipients),
      ),
      mergeMap(([, wish, view, recipients]) => [
        ...(recipients ? [roundsActions.showRecipients()] : []),
        ...(wish ? [roundsActions.lookBack({ wish })] : []),
        ...(view ? [roundsActions.show()] : []),
      ]),
    ),
  );

  readonly save = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.save),
      concatMap(({ id, wish }) => {
        const asked =
          id === null
            ? this.server.ask('addRound', { body: wish })
            : this.server.ask('putRound', { path: { roundId: id }, body: wish });
        return asked.pipe(
          answered(
            ({ name }) => roundsActions.done({ command: 'save', says: `${name} is kept.` }),
            ({ problem }) => roundsActions.failed({ command: 'save', problem }),
          ),
        );
      }),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.remove),
      concatMap(({ id, name }) =>
        this.server.ask('removeRound', { path: { roundId: id } }).pipe(
          answered(
            () => roundsActions.done({ command: 'remove', says: `${name} was removed.` }),
            ({ problem }) => roundsActions.failed({ command: 'remove', problem }),
          ),
        ),
      ),
    ),
  );

  readonly run = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.run),
      concatMap(({ id, name }) =>
        this.server.ask('runRound', { path: { roundId: id } }).pipe(
          answered(
            () => roundsActions.done({ command: 'run', says: `${name} has begun.` }),
            ({ problem }) => roundsActions.failed({ command: 'run', problem }),
          ),
        ),
      ),
    ),
  );

  readonly showRecipients = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.showRecipients),
      switchMap(() =>
        this.server.ask('recipients').pipe(
          answered(
            ({ recipients }) => roundsActions.recipientsShown({ recipients }),
            ({ problem }) => roundsActions.notShown({ view: 'recipients', problem }),
          ),
        ),
      ),
    ),
  );

  readonly saveRecipient = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.saveRecipient),
      concatMap(({ id, wish }) => {
        const asked =
          id === null
            ? this.server.ask('addRecipient', { body: wish })
            : this.server.ask('putRecipient', { path: { recipientId: id }, body: wish });
        return asked.pipe(
          answered(
            ({ name }) => roundsActions.done({ command: 'save recipient', says: `${name} is told from now on.` }),
            ({ problem }) => roundsActions.failed({ command: 'save recipient', problem }),
          ),
        );
      }),
    ),
  );

  readonly removeRecipient = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.removeRecipient),
      concatMap(({ id, name }) =>
        this.server.ask('removeRecipient', { path: { recipientId: id } }).pipe(
          answered(
            () => roundsActions.done({ command: 'remove recipient', says: `${name} is told no more.` }),
            ({ problem }) => roundsActions.failed({ command: 'remove recipient', problem }),
          ),
        ),
      ),
    ),
  );

  readonly tryRecipient = createEffect(() =>
    this.actions.pipe(
      ofType(roundsActions.tryRecipient),
      concatMap(({ id, name }) =>
        this.server.ask('tryRecipient', { path: { recipientId: id } }).pipe(
          answered(
            () => roundsActions.done({ command: 'try', says: `The test to ${name} was taken.` }),
            ({ problem }) => roundsActions.failed({ command: 'try', problem }),
          ),
        ),
      ),
    ),
  );
}
