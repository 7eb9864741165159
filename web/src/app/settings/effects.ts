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
        forkJoin({ settings: this.api.read(), known: this.api.identities() }).pipe(
          answered(
            ({ settings, known }) => settingsActions.loaded({ settings, identities: known.identities }),
            settingsActions.failed,
          ),
        ),
      ),
    ),
  );

  readonly keep = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.keep),
      exhaustMap(({ settings }) =>
        this.api
          .keep(settings)
          .pipe(
            answered(
              () => settingsActions.kept({ says: 'The settings are kept; the next check uses them.' }),
              settingsActions.failed,
            ),
          ),
      ),
    ),
  );

  readonly giveIdentity = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.giveIdentity),
      exhaustMap(({ applicationId, certificatePem, privateKeyPem }) =>
        this.api
          .giveIdentity(applicationId, certificatePem, privateKeyPem)
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
