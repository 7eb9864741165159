import { HttpErrorResponse } from '@angular/common/http';
import type { HttpInterceptorFn } from '@angular/common/http';
import { inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { catchError, throwError } from 'rxjs';
import { sessionActions, sessionFeature } from '../session/state';

/** Sends the sign-in’s token along with whatever changes something, and notices when the sign-in has ended. */
export const carryToken: HttpInterceptorFn = (request, next) => {
  const store = inject(Store);
  const token = store.selectSignal(sessionFeature.selectSignedIn)()?.token;
  const carried =
    token === undefined || request.method === 'GET'
      ? request
      : request.clone({ setHeaders: { 'X-Hinge-Token': token } });
  return next(carried).pipe(
    catchError((error: unknown) => {
      if (error instanceof HttpErrorResponse && error.status === 401 && !request.url.endsWith('/api/session'))
        store.dispatch(sessionActions.ended());
      return throwError(() => error);
    }),
  );
};
