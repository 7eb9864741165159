import { HttpErrorResponse } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { EMPTY, catchError, exhaustMap, filter, map, mergeMap, of, tap } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { linkActions } from '../links/state';
import { sessionActions } from './state';

@Injectable()
export class SessionEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly router = inject(Router);

  readonly ask = createEffect(() =>
    this.actions.pipe(
      ofType(sessionActions.ask),
      exhaustMap(() =>
        this.server.ask('whoAmI').pipe(
          map((signedIn) => sessionActions.found({ signedIn })),
          catchError(() => of(sessionActions.found({ signedIn: null }))),
        ),
      ),
    ),
  );

  /** A stream breaks off where its session was ended elsewhere: then nothing on the page is of use any more. */
  readonly lookAgain = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.liveChanged),
      filter(({ live }) => live === 'broken'),
      exhaustMap(() =>
        this.server.ask('whoAmI').pipe(
          mergeMap(() => EMPTY),
          catchError((error: unknown) =>
            error instanceof HttpErrorResponse && error.status === 401 ? of(sessionActions.ended()) : EMPTY,
          ),
        ),
      ),
    ),
  );

  readonly signIn = createEffect(() =>
    this.actions.pipe(
      ofType(sessionActions.signIn),
      exhaustMap(({ wish }) =>
        this.server
          .ask('signIn', { body: wish })
          .pipe(answered((signedIn) => sessionActions.signedIn({ signedIn }), sessionActions.refused)),
      ),
    ),
  );

  readonly signOut = createEffect(() =>
    this.actions.pipe(
      ofType(sessionActions.signOut),
      exhaustMap(() =>
        this.server.ask('signOut').pipe(
          catchError(() => of(null)),
          map(() => sessionActions.ended()),
        ),
      ),
    ),
  );

  readonly goIn = createEffect(
    () =>
      this.actions.pipe(
        ofType(sessionActions.signedIn),
        tap(
          () => void this.router.navigateByUrl(this.router.parseUrl(this.router.url).queryParams['back'] ?? '/links'),
        ),
      ),
    { dispatch: false },
  );

  readonly goOut = createEffect(
    () =>
      this.actions.pipe(
        ofType(sessionActions.ended),
        map(() => this.router.currentNavigation()?.initialUrl.toString() ?? this.router.url),
        // Several calls may be refused one after another: where to go back to is known from the first.
        filter((url) => !url.startsWith('/sign-in')),
        tap((url) => void this.router.navigate(['/sign-in'], { queryParams: url === '/' ? {} : { back: url } })),
      ),
    { dispatch: false },
  );
}
