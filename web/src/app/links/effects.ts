import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import {
  catchError,
  concatMap,
  debounceTime,
  distinctUntilChanged,
  exhaustMap,
  filter,
  map,
  mergeMap,
  of,
  switchMap,
  takeUntil,
  withLatestFrom,
} from 'rxjs';
import { answered } from '../http/answered';
import { sessionActions, sessionFeature } from '../session/state';
import { LinksApi } from './api';
import { linkActions, linksFeature } from './state';

const gatherMs = 150;

@Injectable()
export class LinkEffects {
  private readonly actions = inject(Actions);
  private readonly api = inject(LinksApi);
  private readonly store = inject(Store);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.load),
      switchMap(() =>
        this.api.rows().pipe(answered(({ links }) => linkActions.loaded({ rows: links }), linkActions.failed)),
      ),
    ),
  );

  readonly open = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.open),
      switchMap(({ linkId }) =>
        this.api.detail(linkId).pipe(answered((detail) => linkActions.opened({ detail }), linkActions.openFailed)),
      ),
    ),
  );

  readonly check = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.check),
      mergeMap(({ linkIds }) =>
        this.api
          .checkAll(linkIds)
          .pipe(
            answered(
              ({ checks }) =>
                checks.map((check) =>
                  linkActions.heard({ event: { kind: 'check-asked', checkId: check.id, linkId: check.linkId } }),
                ),
              linkActions.failed,
            ),
          ),
      ),
    ),
  );

  readonly cancel = createEffect(
    () =>
      this.actions.pipe(
        ofType(linkActions.cancel),
        mergeMap(({ checkId }) => this.api.cancel(checkId).pipe(catchError(() => of(null)))),
      ),
    { dispatch: false },
  );

  readonly readCheck = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.readCheck),
      concatMap(({ checkId }) =>
        this.api
          .checkDetail(checkId)
          .pipe(answered((check) => linkActions.checkRead({ check }), linkActions.openFailed)),
      ),
    ),
  );

  /** Whoever is to trust a certificate sees it first. */
  readonly showCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.considerRemedy),
      map(({ remedy }) => remedy.change),
      filter((change) => change.kind === 'trust-server-certificate' || change.kind === 'accept-client-certificate'),
      switchMap(({ thumbprint }) =>
        this.api
          .certificate(thumbprint)
          .pipe(answered((certificate) => linkActions.certificateShown({ certificate }), linkActions.mendFailed)),
      ),
    ),
  );

  readonly mend = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.mend),
      exhaustMap(({ linkId, change, password }) =>
        this.api
          .mend(linkId, change, password)
          .pipe(
            answered(
              ({ says, orderId }) => [linkActions.mended({ says, orderId }), linkActions.open({ linkId })],
              linkActions.mendFailed,
            ),
          ),
      ),
    ),
  );

  readonly live = createEffect(() =>
    this.actions.pipe(
      ofType(sessionActions.signedIn, sessionActions.found, sessionActions.passwordChanged),
      withLatestFrom(this.store.select(sessionFeature.selectSignedIn)),
      filter(([, signedIn]) => signedIn !== null && !signedIn.mustChangePassword),
      distinctUntilChanged(([, before], [, after]) => before?.token === after?.token),
      switchMap(() =>
        this.api.live().pipe(
          map((news) => {
            switch (news.kind) {
              case 'event':
                return linkActions.heard({ event: news.event });
              case 'missed':
                return linkActions.heard({ event: { kind: 'plant-changed' } });
              default:
                return linkActions.liveChanged({ live: news.kind === 'open' ? 'live' : 'broken' });
            }
          }),
          takeUntil(this.actions.pipe(ofType(sessionActions.ended))),
        ),
      ),
    ),
  );

  readonly reload = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      filter(({ event }) => event.kind === 'check-ended' || event.kind === 'plant-changed'),
      debounceTime(gatherMs),
      map(() => linkActions.load()),
    ),
  );

  readonly reloadDetail = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      withLatestFrom(this.store.select(linksFeature.selectDetail)),
      filter(([{ event }, detail]) => event.kind === 'check-ended' && event.linkId === detail?.link.id),
      map(([, detail]) => linkActions.open({ linkId: detail?.link.id ?? '' })),
    ),
  );
}
