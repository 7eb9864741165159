import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import {
  EMPTY,
  catchError,
  combineLatest,
  concatMap,
  debounceTime,
  distinctUntilChanged,
  exhaustMap,
  expand,
  filter,
  ignoreElements,
  map,
  merge,
  mergeMap,
  of,
  pairwise,
  switchMap,
  takeUntil,
  timer,
  withLatestFrom,
} from 'rxjs';
import { answered } from '../http/answered';
import { shownProblem } from '../http/problem';
import { Server } from '../http/server';
import { benchEvents, page } from './heard';
import { benchActions, benchFeature } from './state';

const progressMs = 1000;
/** Before a bench that is gone is opened again. */
const reopenMs = 3000;

/** Words that are being typed are not looked for yet. */
const typedMs = 120;

@Injectable()
export class BenchEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  readonly lookForLinks = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.lookForLinks),
      debounceTime(typedMs),
      switchMap(({ find }) =>
        this.server
          .ask('links', { query: { usable: 'yes', by: 'name', most: 50, find } })
          .pipe(
            answered(
              ({ rows, fitting }) => benchActions.linksFound({ choices: { rows, fitting } }),
              benchActions.failed,
            ),
          ),
      ),
    ),
  );

  /** A session that is open already is looked at again. */
  readonly open = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.open),
      withLatestFrom(this.store.select(benchFeature.selectBenches)),
      switchMap(([{ linkId }, benches]) => {
        const open = benches.find((bench) => bench.linkId === linkId);
        if (open) return of(benchActions.opened({ bench: open }));
        return this.server
          .ask('openBench', { path: { linkId }, body: { page } })
          .pipe(answered((bench) => benchActions.opened({ bench }), benchActions.failed));
      }),
    ),
  );

  readonly browse = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.opened, benchActions.choose),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      concatMap(([action, bench]) => {
        const parent = 'node' in action ? action.node.nodeId : null;
        if (!bench) return EMPTY;
        return this.server
          .ask('browseBench', { path: { benchId: bench.benchId }, query: { parent: parent ?? '' } })
          .pipe(answered(({ nodes }) => benchActions.browsed({ parent, nodes }), benchActions.failed));
      }),
    ),
  );

  readonly readChosen = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.choose),
      map(({ node }) => node),
      switchMap((node) => (node.nodeClass === 'Variable' ? of(benchActions.read({ nodeId: node.nodeId })) : EMPTY)),
    ),
  );

  readonly read = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.read, benchActions.wasWritten),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      switchMap(([{ nodeId }, bench]) =>
        bench
          ? this.server
              .ask('readBench', { path: { benchId: bench.benchId }, query: { nodeId } })
              .pipe(answered((reading) => benchActions.wasRead({ reading }), benchActions.failed))
          : EMPTY,
      ),
    ),
  );

  readonly matches = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.lookForNodes),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      switchMap(([{ pattern }, bench]) =>
        bench
          ? this.server
              .ask('matchBench', { path: { benchId: bench.benchId }, query: { pattern } })
              .pipe(answered((matches) => benchActions.nodesFound({ matches }), benchActions.failed))
          : EMPTY,
      ),
    ),
  );

  readonly describe = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.describe),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      switchMap(([{ nodeId }, bench]) =>
        bench
          ? this.server
              .ask('describeBench', { path: { benchId: bench.benchId }, query: { nodeId } })
              .pipe(answered((described) => benchActions.wasDescribed({ described }), benchActions.failed))
          : EMPTY,
      ),
    ),
  );

  /** What was written changes what is there to be undone, and what the next value is held against. */
  readonly typed = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.beginWriting, benchActions.wasWritten),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      switchMap(([{ nodeId }, bench]) =>
        bench
          ? this.server
              .ask('typedBench', { path: { benchId: bench.benchId }, query: { nodeId } })
              .pipe(answered((typed) => benchActions.canBeTyped({ typed }), benchActions.failed))
          : EMPTY,
      ),
    ),
  );

  readonly write = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.write),
      withLatestFrom(this.store.select(benchFeature.selectBench), this.store.select(benchFeature.selectTyped)),
      exhaustMap(([{ typed: value, why }, bench, typed]) =>
        bench && typed
          ? this.server
              .ask('writeBench', {
                path: { benchId: bench.benchId },
                body: { nodeId: typed.nodeId, typed: value, seen: typed.value, why },
              })
              .pipe(
                answered((written) => benchActions.wasWritten({ nodeId: typed.nodeId, written }), benchActions.failed),
              )
          : EMPTY,
      ),
    ),
  );

  readonly undo = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.undo),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      exhaustMap(([{ nodeId }, bench]) =>
        bench
          ? this.server
              .ask('undoBench', { path: { benchId: bench.benchId }, body: { nodeId } })
              .pipe(answered((written) => benchActions.wasWritten({ nodeId, written }), benchActions.failed))
          : EMPTY,
      ),
    ),
  );

  readonly record = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.record),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      exhaustMap(([{ wish }, bench]) =>
        bench
          ? this.server
              .ask('beginRecording', { path: { benchId: bench.benchId }, body: wish })
              .pipe(answered(() => benchActions.lookAtRecordings(), benchActions.failed))
          : EMPTY,
      ),
    ),
  );

  readonly stopRecording = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.stopRecording),
      concatMap(({ id }) =>
        this.server
          .ask('stopRecording', { path: { id }, body: {} })
          .pipe(answered(() => benchActions.lookAtRecordings(), benchActions.failed)),
      ),
    ),
  );

  /** What goes on is looked at again, as long as it does. */
  readonly recordings = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.lookAtRecordings, benchActions.opened),
      switchMap(() =>
        this.server.ask('recordings').pipe(
          expand(({ recordings }) =>
            recordings.some(({ state }) => state === 'running')
              ? timer(progressMs).pipe(switchMap(() => this.server.ask('recordings')))
              : EMPTY,
          ),
          map(({ recordings }) => benchActions.recordingsShown({ recordings })),
          takeUntil(this.actions.pipe(ofType(benchActions.closeAll))),
          catchError((error: unknown) => of(benchActions.failed({ problem: shownProblem(error) }))),
        ),
      ),
    ),
  );

  readonly lookBack = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.lookBack),
      withLatestFrom(this.store.select(benchFeature.selectBench)),
      switchMap(([{ node, minutes }, bench]) =>
        bench
          ? this.server
              .ask('historyBench', { path: { benchId: bench.benchId }, query: { nodeId: node.nodeId, minutes } })
              .pipe(answered((history) => benchActions.historyShown({ history }), benchActions.failed))
          : EMPTY,
      ),
    ),
  );

  readonly events = createEffect(() =>
    combineLatest([this.store.select(benchFeature.selectBench), this.store.select(benchFeature.selectListening)]).pipe(
      distinctUntilChanged(
        ([bench, node], [otherBench, otherNode]) =>
          bench?.benchId === otherBench?.benchId && node?.nodeId === otherNode?.nodeId,
      ),
      switchMap(([bench, node]) => (bench && node ? benchEvents(bench.benchId, node.nodeId) : EMPTY)),
      map((heard) => benchActions.eventsHeard({ heard })),
    ),
  );

  /** A bench that is gone is opened again, as long as its page wants it. */
  readonly reopen = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.gone),
      mergeMap(({ linkId }) =>
        timer(reopenMs).pipe(
          switchMap(() =>
            this.server.ask('openBench', { path: { linkId }, body: { page } }).pipe(
              answered(
                (bench) => benchActions.reopened({ bench }),
                ({ problem }) => benchActions.gone({ linkId, says: problem.detail }),
              ),
            ),
          ),
          takeUntil(
            this.store
              .select(benchFeature.selectBenches)
              .pipe(filter((benches) => benches.every((bench) => bench.linkId !== linkId))),
          ),
        ),
      ),
    ),
  );

  readonly browseAgain = createEffect(() =>
    this.actions.pipe(
      ofType(benchActions.browseAgain),
      withLatestFrom(this.store.select(benchFeature.selectBench), this.store.select(benchFeature.selectColumns)),
      switchMap(([, bench, columns]) =>
        bench === null
          ? EMPTY
          : merge(
              ...columns.map(({ parent }) =>
                this.server
                  .ask('browseBench', { path: { benchId: bench.benchId }, query: { parent: parent ?? '' } })
                  .pipe(answered(({ nodes }) => benchActions.browsed({ parent, nodes }), benchActions.failed)),
              ),
            ),
      ),
    ),
  );

  /** What is not held here any more is closed at the server. */
  readonly close = createEffect(
    () =>
      this.store.select(benchFeature.selectBenches).pipe(
        pairwise(),
        mergeMap(([before, now]) => before.filter(({ benchId }) => now.every((bench) => bench.benchId !== benchId))),
        mergeMap(({ benchId }) =>
          this.server.ask('closeBench', { path: { benchId } }).pipe(
            ignoreElements(),
            catchError(() => EMPTY),
          ),
        ),
      ),
    { dispatch: false },
  );
}
