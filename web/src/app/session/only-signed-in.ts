import { inject } from '@angular/core';
import { Router } from '@angular/router';
import type { CanActivateFn } from '@angular/router';
import { Store } from '@ngrx/store';
import { filter, map, take } from 'rxjs';
import { sessionActions, sessionFeature } from './state';

/** Where somebody with a first password changes it: nothing else is open to them before. */
const ownPage = '/account';

/** Lets only signed-in people in; the address that they wanted is kept. */
export const onlySignedIn: CanActivateFn = (_route, { url }) => {
  const store = inject(Store);
  const router = inject(Router);
  if (!store.selectSignal(sessionFeature.selectAsked)()) store.dispatch(sessionActions.ask());
  return store.select(sessionFeature.selectSessionState).pipe(
    filter(({ asked }) => asked),
    take(1),
    map(({ signedIn }) =>
      signedIn === null
        ? router.createUrlTree(['/sign-in'], { queryParams: { back: url } })
        : !signedIn.mustChangePassword || url === ownPage || router.parseUrl(ownPage),
    ),
  );
};
