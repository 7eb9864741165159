import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { concatMap, firstValueFrom, from, mergeMap, switchMap, withLatestFrom } from 'rxjs';
import type { Action } from '@ngrx/store';
import { evidencePartBytes } from '@loyal-hinge/contract';
import { base64Of } from '../files/base64';
import { answered } from '../http/answered';
import { shownProblem } from '../http/problem';
import { Server } from '../http/server';
import { kindsHeard } from '../links/kinds-heard';
import { casebookActions, casebookFeature } from './state';

const actSaid = {
  note: 'The note is kept.',
  assign: 'The case is given.',
  close: 'The case is closed.',
  reopen: 'The case is open again.',
} as const;

@Injectable()
export class CasebookEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.show),
      switchMap(() =>
        this.server.ask('casebook').pipe(
          answered(
            (view) => casebookActions.shown({ view }),
            ({ problem }) => casebookActions.notShown({ view: 'view', problem }),
          ),
        ),
      ),
    ),
  );

  readonly look = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.look),
      switchMap(({ caseId }) =>
        this.server.ask('case', { path: { caseId } }).pipe(
          answered(
            (view) => casebookActions.caseShown({ view }),
            ({ problem }) => casebookActions.notShown({ view: 'one', problem }),
          ),
        ),
      ),
    ),
  );

  readonly lookAtPlace = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.lookAtPlace),
      switchMap(({ evidenceId, position }) =>
        this.server.ask('evidencePlace', { path: { evidenceId }, query: { position } }).pipe(
          answered(
            (place) => casebookActions.placeShown({ place }),
            ({ problem }) => casebookActions.notShown({ view: 'place', problem }),
          ),
        ),
      ),
    ),
  );

  readonly listen = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.listen),
      switchMap((path) =>
        this.server.ask('conversation', { path }).pipe(
          answered(
            (conversation) => casebookActions.heard({ conversation }),
            ({ problem }) => casebookActions.notShown({ view: 'conversation', problem }),
          ),
        ),
      ),
    ),
  );

  readonly lookAtBytes = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.lookAtBytes),
      switchMap(({ evidenceId, position, index }) =>
        this.server.ask('messageBytes', { path: { evidenceId, position, index: String(index) } }).pipe(
          answered(
            (bytes) => casebookActions.bytesShown({ bytes }),
            ({ problem }) => casebookActions.notShown({ view: 'bytes', problem }),
          ),
        ),
      ),
    ),
  );

  /** Files came, a check saw a link, or the plant was changed, and with it what belongs to which link. */
  readonly changed = createEffect(() =>
    kindsHeard(this.actions, 'casebook-changed', 'plant-changed', 'check-ended', 'reports-changed').pipe(
      withLatestFrom(this.store.select(casebookFeature.selectCaseId), this.store.select(casebookFeature.selectShown)),
      mergeMap(([, caseId, view]) => [
        ...(caseId === null ? [] : [casebookActions.look({ caseId })]),
        ...(view ? [casebookActions.show()] : []),
      ]),
    ),
  );

  /** One file after another, each part by part: a file may be larger than memory. */
  readonly bring = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.bring),
      concatMap(({ file }) => from(this.parts(file))),
    ),
  );

  readonly setReading = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.setReading),
      concatMap(({ evidenceId, reading }) =>
        this.server.ask('setEvidenceReading', { path: { evidenceId }, body: reading }).pipe(
          answered(
            () => casebookActions.done({ command: 'reading', says: 'It is set; the file is read again.' }),
            ({ problem }) => casebookActions.failed({ command: 'reading', problem }),
          ),
        ),
      ),
    ),
  );

  readonly act = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.act),
      concatMap(({ caseId, wish }) =>
        this.server.ask('actOnCase', { path: { caseId }, body: wish }).pipe(
          answered(
            () => casebookActions.done({ command: 'act', says: actSaid[wish.kind] }),
            ({ problem }) => casebookActions.failed({ command: 'act', problem }),
          ),
        ),
      ),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(casebookActions.remove),
      concatMap(({ evidenceId, name }) =>
        this.server.ask('removeEvidence', { path: { evidenceId } }).pipe(
          answered(
            () => casebookActions.done({ command: 'remove', says: `${name} was removed.` }),
            ({ problem }) => casebookActions.failed({ command: 'remove', problem }),
          ),
        ),
      ),
    ),
  );

  private async *parts(file: File): AsyncGenerator<Action> {
    const { name, size: bytes } = file;
    try {
      const { evidenceId, received } = await firstValueFrom(
        this.server.ask('beginEvidence', { body: { name, bytes } }),
      );
      for (let sent = received; sent < bytes;) {
        yield casebookActions.sent({ sending: { name, sent, bytes } });
        const content = await base64Of(file.slice(sent, sent + evidencePartBytes));
        const told = await firstValueFrom(
          this.server.ask('sendEvidence', { path: { evidenceId }, body: { from: sent, content } }),
        );
        sent = told.received;
      }
      yield casebookActions.arrived({ name, says: `${name} has arrived, and is read now.` });
    } catch (error) {
      yield casebookActions.notSent({ name, problem: shownProblem(error) });
    }
  }
}
