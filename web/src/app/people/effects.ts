import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import { EMPTY, concatMap, filter, map, switchMap, withLatestFrom } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { sessionActions } from '../session/state';
import { peopleActions, peopleFeature } from './state';
import type { PeopleCommand, ShownOnce } from './state';

const ofEverybody: readonly PeopleCommand['does'][] = ['add', 'change', 'reset', 'end session'];

@Injectable()
export class PeopleEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.showPeople, peopleActions.done),
      filter((action) => !('command' in action) || ofEverybody.includes(action.command.does)),
      switchMap(() =>
        this.server
          .ask('people')
          .pipe(answered(({ people }) => peopleActions.loaded({ people }), peopleActions.notLoaded)),
      ),
    ),
  );

  readonly loadAccount = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.showAccount, peopleActions.done),
      filter((action) => !('command' in action) || !ofEverybody.includes(action.command.does)),
      switchMap(() =>
        this.server
          .ask('ownAccount')
          .pipe(answered((account) => peopleActions.accountLoaded({ account }), peopleActions.notLoaded)),
      ),
    ),
  );

  readonly open = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.openPerson, peopleActions.loaded),
      withLatestFrom(this.store.select(peopleFeature.selectOpened)),
      switchMap(([, opened]) =>
        opened === null
          ? EMPTY
          : this.server
              .ask('sessionsOf', { path: { name: opened.name } })
              .pipe(
                answered(
                  ({ sessions }) => peopleActions.personOpened({ name: opened.name, sessions }),
                  peopleActions.notLoaded,
                ),
              ),
      ),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.command),
      concatMap(({ command }) =>
        this.carryOut(command).pipe(
          answered(
            (told) => peopleActions.done({ command, ...told }),
            ({ problem }) => peopleActions.failed({ command, problem }),
          ),
        ),
      ),
    ),
  );

  /** Who signed in by a first password is let to everything else now. */
  readonly passwordChanged = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.done),
      filter(({ command }) => command.does === 'change password'),
      map(() => sessionActions.passwordChanged()),
    ),
  );

  private carryOut(command: PeopleCommand): Observable<{ says: string; once?: ShownOnce }> {
    const { server } = this;
    switch (command.does) {
      case 'add':
        return told(
          server.ask('addPerson', { body: command.body }),
          `${command.body.name} can sign in, and changes the password at the first sign-in.`,
        );
      case 'change':
        return told(
          server.ask('changePerson', { path: { name: command.name }, body: command.body }),
          command.body.isDisabled
            ? `${command.name} is disabled and signed out.`
            : `${command.name} has the role ${command.body.role}.`,
        );
      case 'reset':
        return told(
          server.ask('resetPerson', { path: { name: command.name }, body: command.body }),
          `${command.name} is signed out, and changes the new password at the next sign-in.`,
        );
      case 'end session':
        return told(
          server.ask('endSession', { path: { name: command.name, id: command.id } }),
          'The session has ended.',
        );
      case 'end own session':
        return told(server.ask('endOwnSession', { path: { id: command.id } }), 'The session has ended.');
      case 'change password':
        return told(
          server.ask('changePassword', { body: { current: command.current, next: command.next } }),
          'Your password is changed. Your other sessions have ended.',
        );
      case 'begin second factor':
        return server
          .ask('beginSecondFactor', { body: { current: command.current } })
          .pipe(
            map((wanted) => ({ says: 'Now give the secret to your authenticator application.', once: { wanted } })),
          );
      case 'confirm second factor':
        return server
          .ask('confirmSecondFactor', { body: { code: command.code } })
          .pipe(map((once) => ({ says: 'From now on you sign in with a code as well.', once })));
      case 'end second factor':
        return told(
          server.ask('endSecondFactor', { body: { current: command.current } }),
          'You sign in by password only again.',
        );
      case 'renew recovery codes':
        return server
          .ask('renewRecoveryCodes', { body: { current: command.current } })
          .pipe(map((once) => ({ says: 'These codes replace the previous ones.', once })));
    }
  }
}

const told = (call: Observable<unknown>, says: string): Observable<{ says: string }> =>
  call.pipe(map(() => ({ says })));
