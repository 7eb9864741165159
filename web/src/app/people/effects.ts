import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import { EMPTY, concatMap, filter, map, switchMap, withLatestFrom } from 'rxjs';
import { answered } from '../http/answered';
import { sessionActions } from '../session/state';
import { PeopleApi } from './api';
import { peopleActions, peopleFeature } from './state';
import type { PeopleCommand, ShownOnce } from './state';

const ofEverybody: readonly PeopleCommand['does'][] = ['add', 'change', 'reset', 'end session'];

@Injectable()
export class PeopleEffects {
  private readonly actions = inject(Actions);
  private readonly api = inject(PeopleApi);
  private readonly store = inject(Store);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.showPeople, peopleActions.done),
      filter((action) => !('command' in action) || ofEverybody.includes(action.command.does)),
      switchMap(() =>
        this.api.all().pipe(answered(({ people }) => peopleActions.loaded({ people }), peopleActions.failed)),
      ),
    ),
  );

  readonly loadAccount = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.showAccount, peopleActions.done),
      filter((action) => !('command' in action) || !ofEverybody.includes(action.command.does)),
      switchMap(() =>
        this.api.account().pipe(answered((account) => peopleActions.accountLoaded({ account }), peopleActions.failed)),
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
          : this.api
              .sessionsOf(opened.name)
              .pipe(
                answered(
                  ({ sessions }) => peopleActions.personOpened({ name: opened.name, sessions }),
                  peopleActions.failed,
                ),
              ),
      ),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(peopleActions.command),
      concatMap(({ command }) =>
        this.carryOut(command).pipe(answered((told) => peopleActions.done({ command, ...told }), peopleActions.failed)),
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
    const { api } = this;
    switch (command.does) {
      case 'add':
        return told(api.add(command.body), `${command.body.name} can sign in, and changes the password then.`);
      case 'change':
        return told(
          api.change(command.name, command.body),
          command.body.isDisabled
            ? `${command.name} is disabled and signed out.`
            : `${command.name} has the role ${command.body.role}.`,
        );
      case 'reset':
        return told(
          api.reset(command.name, command.body),
          `${command.name} is signed out, and changes the new password at the next sign-in.`,
        );
      case 'end session':
        return told(api.endSession(command.name, command.id), 'The session has ended.');
      case 'end own session':
        return told(api.endOwnSession(command.id), 'The session has ended.');
      case 'change password':
        return told(
          api.changePassword(command.current, command.next),
          'Your password is changed. Your other sessions have ended.',
        );
      case 'begin second factor':
        return api
          .beginSecondFactor(command.current)
          .pipe(
            map((wanted) => ({ says: 'Now give the secret to your authenticator application.', once: { wanted } })),
          );
      case 'confirm second factor':
        return api
          .confirmSecondFactor(command.code)
          .pipe(map((once) => ({ says: 'From now on you sign in with a code, too.', once })));
      case 'end second factor':
        return told(api.endSecondFactor(command.current), 'You sign in by password alone again.');
      case 'renew recovery codes':
        return api
          .renewRecoveryCodes(command.current)
          .pipe(map((once) => ({ says: 'These codes replace those before.', once })));
    }
  }
}

const told = (call: Observable<unknown>, says: string): Observable<{ says: string }> =>
  call.pipe(map(() => ({ says })));
