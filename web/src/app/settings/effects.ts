import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { exhaustMap, forkJoin, switchMap } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import type { ShownProblem } from '../http/problem';
import { settingsActions } from './state';
import type { SettingsCommand } from './state';

@Injectable()
export class SettingsEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.load, settingsActions.done),
      switchMap(() =>
        forkJoin([this.server.ask('settings'), this.server.ask('identities'), this.server.ask('authorities')]).pipe(
          answered(
            ([settings, { identities }, { authorities }]) =>
              settingsActions.loaded({ settings, identities, authorities }),
            settingsActions.notLoaded,
          ),
        ),
      ),
    ),
  );

  readonly loadOwnCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.loadOwnCertificate),
      switchMap(() =>
        this.server
          .ask('ownCertificate')
          .pipe(answered((state) => settingsActions.ownCertificateLoaded({ state }), settingsActions.notLoaded)),
      ),
    ),
  );

  readonly giveOwnCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.giveOwnCertificate),
      exhaustMap(({ wish }) =>
        this.server.ask('putOwnCertificate', { body: wish }).pipe(
          answered(
            (state) => [
              settingsActions.ownCertificateLoaded({ state }),
              settingsActions.done({
                does: 'give own certificate',
                says: 'The server shows its new certificate from now on.',
              }),
            ],
            failed('give own certificate'),
          ),
        ),
      ),
    ),
  );

  readonly requestOwnCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.requestOwnCertificate),
      exhaustMap(({ hosts }) =>
        this.server
          .ask('requestOwnCertificate', { body: { hosts } })
          .pipe(
            answered(({ requestPem }) => settingsActions.requested({ requestPem }), failed('request own certificate')),
          ),
      ),
    ),
  );

  readonly save = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.save),
      exhaustMap(({ settings }) =>
        this.server.ask('putSettings', { body: settings }).pipe(
          answered(
            ({ waitsAs }) =>
              settingsActions.done({
                does: 'save',
                says:
                  waitsAs === null
                    ? 'The settings were saved. The next check uses them.'
                    : 'The settings were saved, except the approval by a second person: somebody else must accept that under Work orders.',
              }),
            failed('save'),
          ),
        ),
      ),
    ),
  );

  readonly giveIdentity = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.giveIdentity),
      exhaustMap(({ applicationId, identity }) =>
        this.server.ask('putIdentity', { path: { id: applicationId }, body: identity }).pipe(
          answered(
            ({ application }) =>
              settingsActions.done({
                does: 'give identity',
                says: `${application} has its certificate; the key is stored encrypted.`,
              }),
            failed('give identity'),
          ),
        ),
      ),
    ),
  );
}

const failed =
  (does: SettingsCommand) =>
  ({ problem }: { problem: ShownProblem }) =>
    settingsActions.failed({ does, problem });
