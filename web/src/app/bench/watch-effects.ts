import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Action } from '@ngrx/store';
import {
  EMPTY,
  catchError,
  combineLatest,
  concatMap,
  debounceTime,
  distinctUntilChanged,
  from,
  ignoreElements,
  map,
  mergeMap,
  of,
  switchMap,
  tap,
  withLatestFrom,
} from 'rxjs';
import type { Observable } from 'rxjs';
import type { BenchOpened } from '@loyal-hinge/contract';
import { shownProblem } from '../http/problem';
import type { ShownProblem } from '../http/problem';
import { Server } from '../http/server';
import { benchesHeard } from './heard';
import type { HeardOfBenches } from './heard';
import { benchActions, benchFeature } from './state';
import { ValueHistory } from './value-history';
import { watchActions, watchFeature, watchKey } from './watch-state';

/** It is not opened again by itself: it would hold its machine for nobody. */
const closedUnused: ShownProblem = {
  title: 'The session was closed',
  detail: 'Nobody used it for five minutes, and its machine takes one connection at a time.',
  remedy: 'Open it again when it is needed.',
  faults: [],
};

/** Several nodes are often chosen at once. */
const gatherMs = 100;

/** Tells the server what is watched, and hears what comes of it. */
@Injectable()
export class WatchEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);
  private readonly history = inject(ValueHistory);
  private readonly benches = this.store.select(benchFeature.selectBenches);
  /** By bench, what was wished for last. */
  private readonly wished = new Map<string, string>();

  /** One stream for all sessions: a browser opens few connections to one server. */
  readonly hear = createEffect(() =>
    this.benches.pipe(
      map((benches) => benches.length > 0),
      distinctUntilChanged(),
      switchMap((areThere) => (areThere ? benchesHeard() : EMPTY)),
      withLatestFrom(this.benches),
      mergeMap(([heard, benches]) => this.told(heard, benches)),
    ),
  );

  readonly watch = createEffect(() =>
    combineLatest([
      this.benches,
      this.store.select(watchFeature.selectWatchedByLink),
      this.store.select(watchFeature.selectEveryMs),
    ]).pipe(
      debounceTime(gatherMs),
      mergeMap(([benches, byLink, everyMs]) =>
        benches.map(({ benchId, linkId }) => ({ benchId, body: { nodeIds: byLink.get(linkId) ?? [], everyMs } })),
      ),
      concatMap(({ benchId, body }) => {
        const wish = JSON.stringify(body);
        const before = this.wished.get(benchId);
        if (before === wish || (before === undefined && body.nodeIds.length === 0)) return EMPTY;
        this.wished.set(benchId, wish);
        return this.server.ask('watchBench', { path: { benchId }, body }).pipe(
          ignoreElements(),
          catchError((error: unknown) => of(benchActions.failed({ problem: shownProblem(error) }))),
        );
      }),
    ),
  );

  /** A session that is neither looked at nor watched over holds a machine for nobody. */
  readonly letGo = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.open, benchActions.lookAway, watchActions.unwatch, watchActions.unwatchAll),
      withLatestFrom(
        this.store.select(benchFeature.selectBenchState),
        this.store.select(watchFeature.selectWatchedByLink),
      ),
      mergeMap(([action, { sessions, front }, byLink]) => {
        const wanted = 'linkId' in action ? action.linkId : front;
        const linkIds = sessions
          .map(({ bench }) => bench.linkId)
          .filter((linkId) => linkId !== wanted && !byLink.has(linkId));
        return linkIds.length === 0 ? EMPTY : of(benchActions.closeSessions({ linkIds }));
      }),
    ),
  );

  readonly unwatchClosed = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.closeSessions, benchActions.closeAll),
      map((action) => ('linkIds' in action ? watchActions.unwatchOver(action) : watchActions.unwatchAll())),
    ),
  );

  readonly forget = createEffect(
    () =>
      this.store
        .select(watchFeature.selectWatched)
        .pipe(tap((watched) => this.history.keepOnly(new Set(watched.map(({ key }) => key))))),
    { dispatch: false },
  );

  private told({ ended, unused, heard }: HeardOfBenches, benches: readonly BenchOpened[]): Observable<Action> {
    const linkOf = (benchId: string): string[] =>
      benches.flatMap((bench) => (bench.benchId === benchId ? bench.linkId : []));
    return from([
      ...heard.flatMap(({ benchId, session, ...values }) =>
        linkOf(benchId).flatMap((linkId) => {
          for (const { nodeId, value } of values.values)
            if (value.number !== null)
              this.history.push(
                watchKey(linkId, nodeId),
                value.sourceTime ?? value.serverTime ?? Date.now(),
                value.number,
              );
          if (session?.isLost)
            this.history.breakAt(Date.parse(session.at), (key) => key.startsWith(watchKey(linkId, '')));
          return [
            ...(session ? [benchActions.turned({ linkId, state: session })] : []),
            watchActions.heard({ linkId, heard: values }),
          ];
        }),
      ),
      ...ended.flatMap((benchId) =>
        linkOf(benchId).map((linkId) => benchActions.gone({ linkId, says: 'The session was closed.' })),
      ),
      ...unused.flatMap((benchId) =>
        linkOf(benchId).flatMap((linkId) => [
          benchActions.closeSessions({ linkIds: [linkId] }),
          benchActions.failed({ problem: closedUnused }),
        ]),
      ),
    ]);
  }
}
