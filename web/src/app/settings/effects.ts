import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { catchError, exhaustMap, forkJoin, map, of, switchMap } from 'rxjs';
import { shownProblem } from '../http/problem';
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
          map(({ settings, known }) => settingsActions.loaded({ settings, identities: known.identities })),
          catchError((error: unknown) => of(settingsActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly keep = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.keep),
      exhaustMap(({ settings }) =>
        this.api.keep(settings).pipe(
          map(() => settingsActions.kept({ says: 'The settings are kept; the next check uses them.' })),
          catchError((error: unknown) => of(settingsActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly giveIdentity = createEffect(() =>
    this.actions.pipe(
      ofType(settingsActions.giveIdentity),
      exhaustMap(({ applicationId, certificatePem, privateKeyPem }) =>
        this.api.giveIdentity(applicationId, certificatePem, privateKeyPem).pipe(
          map(({ application }) =>
            settingsActions.kept({ says: `${application} has its certificate; the key is sealed.` }),
          ),
          catchError((error: unknown) => of(settingsActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );
}
