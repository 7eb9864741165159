import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { exhaustMap, forkJoin, switchMap } from 'rxjs';
import { answered } from '../http/answered';
import { SettingsApi } from './api';
import { settingsActions } from './state';

@Injectable()
export class SettingsEffects {
  private readonly actions = inject(Actions);
  private readonly api = inject(SettingsApi);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.load, settingsActions.kept),
      switchMap(() =>
        forkJoin([this.api.read(), this.api.identities(), this.api.authorities()]).pipe(
          answered(
            ([settings, { identities }, { authorities }]) =>
              settingsActions.loaded({ settings, identities, authorities }),
            settingsActions.failed,
          ),
        ),
      ),
    ),
  );

  readonly loadOwnCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.loadOwnCertificate),
      switchMap(() =>
        this.api
          .ownCertificate()
          .pipe(answered((state) => settingsActions.ownCertificateLoaded({ state }), settingsActions.failed)),
      ),
    ),
  );

  readonly giveOwnCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.giveOwnCertificate),
      exhaustMap(({ wish }) =>
        this.api
          .giveOwnCertificate(wish)
          .pipe(
            answered(
              (state) => [
                settingsActions.ownCertificateLoaded({ state }),
                settingsActions.kept({ says: 'The server shows its new certificate from now on.' }),
              ],
              settingsActions.failed,
            ),
          ),
      ),
    ),
  );

  readonly requestOwnCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.requestOwnCertificate),
      exhaustMap(({ hosts }) =>
        this.api
          .requestOwnCertificate(hosts)
          .pipe(answered(({ requestPem }) => settingsActions.requested({ requestPem }), settingsActions.failed)),
      ),
    ),
  );

  readonly keep = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.keep),
      exhaustMap(({ settings }) =>
        this.api.keep(settings).pipe(
          answered(
            ({ waitsAs }) =>
              settingsActions.kept({
                says:
                  waitsAs === null
                    ? 'The settings were saved. The next check uses them.'
                    : 'The settings were saved, except the approval by a second person: somebody else must accept that under Work orders.',
              }),
            settingsActions.failed,
          ),
        ),
      ),
    ),
  );

  readonly giveIdentity = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.giveIdentity),
      exhaustMap(({ applicationId, identity }) =>
        this.api
          .giveIdentity(applicationId, identity)
          .pipe(
            answered(
              ({ application }) =>
                settingsActions.kept({ says: `${application} has its certificate; the key is sealed.` }),
              settingsActions.failed,
            ),
          ),
      ),
    ),
  );
}
