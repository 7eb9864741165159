import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import {
  EMPTY,
  asyncScheduler,
  auditTime,
  catchError,
  concatMap,
  debounce,
  distinctUntilChanged,
  exhaustMap,
  filter,
  map,
  mergeMap,
  of,
  shareReplay,
  startWith,
  switchMap,
  throttleTime,
  timer,
  takeUntil,
  withLatestFrom,
} from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { sessionActions, sessionFeature } from '../session/state';
import { liveNews } from './live';
import type { HingeEvent } from '@loyal-hinge/contract';
import type { RowRange } from '../shell/row-window';
import { fittingOf, linkActions, linksFeature } from './state';
import type { Board, BoardWish } from './state';

const gatherMs = 150;
/** A board that changes all the time is read anew so often. */
const refreshMs = 1500;
/** Rows that are only scrolled past are not read. */
const scrollMs = 40;
const mostRows = 200;
const turnsTheBoard: ReadonlySet<HingeEvent['kind']> = new Set<HingeEvent['kind']>([
  'check-ended',
  'checks-changed',
  'plant-changed',
]);
const noRows: RowRange = { from: 0, to: 0 };
/** Before anything is drawn. */
const firstRows: RowRange = { from: 0, to: 75 };

@Injectable()
export class LinkEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);
  /** The rows in sight; none while no board is looked at. */
  private readonly inSight = this.actions.pipe(
    ofType(linkActions.look, linkActions.reach, linkActions.lookAway),
    map((action): RowRange => {
      if (action.type === linkActions.reach.type) return { from: action.from, to: action.to };
      return action.type === linkActions.look.type ? firstRows : noRows;
    }),
    startWith(noRows),
    shareReplay({ bufferSize: 1, refCount: false }),
  );

  /** What is in sight and not there yet is read; what comes too late for the wish is dropped by the reducer. */
  readonly reach = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.look, linkActions.reach),
      debounce(({ type }) => timer(type === linkActions.reach.type ? scrollMs : 0)),
      withLatestFrom(this.store.select(linksFeature.selectBoard), this.inSight),
      map(([, board, range]) => ({ board, range: missingIn(board, range) })),
      filter(({ range }) => range !== null),
      switchMap(({ board: { wish }, range }) => this.read(wish, range ?? noRows)),
    ),
  );

  /** Rows that were read before are read anew, but not more often than the eye follows. */
  readonly refresh = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.refresh),
      withLatestFrom(this.store.select(linksFeature.selectBoard), this.inSight),
      filter(([, , { to }]) => to > 0),
      switchMap(([, { wish }, range]) => this.read(wish, range)),
    ),
  );

  readonly loadRow = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.loadRow),
      mergeMap(({ linkId }) =>
        // Why a link can’t be shown is told by its detail.
        this.server.ask('linkRow', { path: { linkId } }).pipe(
          map((row) => linkActions.rowLoaded({ row })),
          catchError(() => EMPTY),
        ),
      ),
    ),
  );

  readonly open = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.open),
      switchMap(({ linkId }) =>
        this.server
          .ask('link', { path: { linkId } })
          .pipe(answered((detail) => linkActions.opened({ detail }), linkActions.openFailed)),
      ),
    ),
  );

  readonly check = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.check),
      mergeMap(({ linkIds }) =>
        this.server
          .ask('checkAll', { body: { linkIds } })
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

  readonly proveWrites = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.proveWrites),
      exhaustMap(({ linkId, proof }) =>
        this.server
          .ask('proveWrites', { path: { linkId }, body: proof })
          .pipe(
            answered(
              ({ id: checkId }) => linkActions.heard({ event: { kind: 'check-asked', checkId, linkId } }),
              linkActions.failed,
            ),
          ),
      ),
    ),
  );

  readonly checkFitting = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.checkFitting),
      exhaustMap((wish) =>
        this.server
          .ask('checkAll', { body: { fitting: fittingOf(wish) } })
          .pipe(answered(() => linkActions.refresh(), linkActions.failed)),
      ),
    ),
  );

  readonly cancelAll = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.cancelAll),
      exhaustMap(() => this.server.ask('cancelAll').pipe(answered(() => linkActions.refresh(), linkActions.failed))),
    ),
  );

  readonly cancel = createEffect(
    () =>
      this.actions.pipe(
        ofType(linkActions.cancel),
        mergeMap(({ checkId }) =>
          this.server.ask('cancelCheck', { path: { checkId } }).pipe(catchError(() => of(null))),
        ),
      ),
    { dispatch: false },
  );

  readonly readCheck = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.readCheck),
      concatMap(({ checkId }) =>
        this.server
          .ask('check', { path: { checkId } })
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
        this.server
          .ask('certificate', { path: { thumbprint } })
          .pipe(answered((certificate) => linkActions.certificateShown({ certificate }), linkActions.mendFailed)),
      ),
    ),
  );

  readonly mend = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.mend),
      exhaustMap(({ linkId, change, password }) =>
        this.server
          .ask('mend', { path: { linkId }, body: { change, password } })
          .pipe(
            answered(
              ({ says, orderId: id }) => [
                id === null
                  ? linkActions.mended({ says: `${says} The check runs again to prove it.` })
                  : linkActions.mendingProposed({ order: { id, says } }),
                linkActions.open({ linkId }),
              ],
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
      switchMap(([, signedIn]) =>
        liveNews(signedIn?.newestEvent ?? 0).pipe(
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
      filter(({ event }) => turnsTheBoard.has(event.kind)),
      auditTime(gatherMs),
      throttleTime(refreshMs, asyncScheduler, { leading: true, trailing: true }),
      map(() => linkActions.refresh()),
    ),
  );

  /** The row of the link that is open. */
  readonly reloadRow = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      withLatestFrom(this.store.select(linksFeature.selectLooked)),
      filter(([{ event }, looked]) => event.kind === 'check-ended' && event.linkId === looked),
      map(([, looked]) => linkActions.loadRow({ linkId: looked ?? '' })),
    ),
  );

  readonly reloadDetail = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      withLatestFrom(this.store.select(linksFeature.selectLooked)),
      filter(([{ event }, looked]) => event.kind === 'check-ended' && event.linkId === looked),
      map(([, looked]) => linkActions.open({ linkId: looked ?? '' })),
    ),
  );

  private read(wish: BoardWish, { from, to }: RowRange) {
    return this.server
      .ask('links', { query: { ...wish, from, most: Math.max(1, Math.min(mostRows, to - from)) } })
      .pipe(answered((board) => linkActions.loaded({ wish, board }), linkActions.failed));
  }
}

/** The rows of a range from the first that is not there to the last; null where all are. */
function missingIn({ places, fitting }: Board, { from, to }: RowRange): RowRange | null {
  const known = Object.keys(places).length > 0;
  const end = known ? Math.min(to, fitting) : to;
  const missing: number[] = [];
  for (let place = from; place < end; place += 1) if (places[place] === undefined) missing.push(place);
  const [first, last] = [missing[0], missing.at(-1)];
  return first === undefined || last === undefined ? null : { from: first, to: last + 1 };
}
