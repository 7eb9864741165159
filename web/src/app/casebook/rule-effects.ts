import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatMap, filter, map, switchMap } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { casebookActions } from './state';

/** What the server is asked of reading rules. */
@Injectable()
export class RuleEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);

  readonly showRules = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.showRules),
      switchMap(() =>
        this.server.ask('readingRules').pipe(
          answered(
            (rules) => casebookActions.rulesShown({ rules }),
            ({ problem }) => casebookActions.notShown({ view: 'rules', problem }),
          ),
        ),
      ),
    ),
  );

  /** Of what is typed only the newest is tried. */
  readonly tryRule = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.tryRule),
      switchMap(({ wish }) =>
        this.server.ask('tryReadingRule', { body: wish }).pipe(
          answered(
            (trial) => casebookActions.ruleTried({ trial }),
            ({ problem }) => casebookActions.notShown({ view: 'trial', problem }),
          ),
        ),
      ),
    ),
  );

  readonly saveRule = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.saveRule),
      concatMap(({ id, wish }) => {
        const asked =
          id === null
            ? this.server.ask('addReadingRule', { body: wish })
            : this.server.ask('putReadingRule', { path: { ruleId: id }, body: wish });
        return asked.pipe(
          answered(
            ({ name }) => casebookActions.done({ command: 'rule', says: `${name} is kept.` }),
            ({ problem }) => casebookActions.failed({ command: 'rule', problem }),
          ),
        );
      }),
    ),
  );

  readonly removeRule = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.removeRule),
      concatMap(({ id, name }) =>
        this.server.ask('removeReadingRule', { path: { ruleId: id } }).pipe(
          answered(
            () => casebookActions.done({ command: 'remove rule', says: `${name} was removed.` }),
            ({ problem }) => casebookActions.failed({ command: 'remove rule', problem }),
          ),
        ),
      ),
    ),
  );

  readonly takeRules = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.takeRules),
      concatMap(({ file }) =>
        this.server.ask('takeReadingRules', { body: file }).pipe(
          answered(
            ({ added, changed }) =>
              casebookActions.done({ command: 'take rules', says: `Rules added: ${added}, changed: ${changed}.` }),
            ({ problem }) => casebookActions.failed({ command: 'take rules', problem }),
          ),
        ),
      ),
    ),
  );

  /** Rules as they are after each change of them. */
  readonly rulesChanged = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.done),
      filter(({ command }) => command === 'rule' || command === 'remove rule' || command === 'take rules'),
      map(() => casebookActions.showRules()),
    ),
  );
}
