import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { EMPTY, concatMap, debounceTime, exhaustMap, filter, forkJoin, map, switchMap, withLatestFrom } from 'rxjs';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import type { ShownProblem } from '../http/problem';
import { linkActions } from '../links/state';
import { rightsActions, rightsFeature } from './state';
import type { RightsCommand } from './state';

/** The end of one snapshot is followed by the beginning of the next. */
const gatherMs = 300;

@Injectable()
export class RightsEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  /** What is told of the server that is looked at. */
  private readonly told = this.actions.pipe(
    ofType(linkActions.heard),
    withLatestFrom(this.store.select(rightsFeature.selectLook)),
    map(([{ event }, look]) => (event.kind === 'rights-changed' && event.serverId === look?.serverId ? event : null)),
    filter((event) => event !== null),
  );

  readonly progress = createEffect(() => this.told.pipe(map(({ nodes }) => rightsActions.nodesSeen({ nodes }))));

  readonly changed = createEffect(() =>
    this.told.pipe(
      filter(({ state, nodes }) => state !== 'running' || nodes === 0),
      debounceTime(gatherMs),
      map(() => rightsActions.lookAgain()),
    ),
  );

  readonly servers = createEffect(() =>
    this.actions.pipe(
      ofType(rightsActions.showServers),
      switchMap(() =>
        this.server.ask('rightsServers').pipe(
          answered(
            ({ servers }) => rightsActions.serversShown({ servers }),
            ({ problem }) => rightsActions.notShown({ view: 'servers', problem }),
          ),
        ),
      ),
    ),
  );

  readonly rights = createEffect(() =>
    this.actions.pipe(
      ofType(rightsActions.look, rightsActions.lookAgain, rightsActions.done),
      withLatestFrom(this.store.select(rightsFeature.selectLook)),
      switchMap(([, look]) =>
        look === null
          ? EMPTY
          : this.server.ask('rights', { path: { serverId: look.serverId }, query: look.wish }).pipe(
              answered(
                (rights) => rightsActions.rightsShown({ rights }),
                ({ problem }) => rightsActions.notShown({ view: 'rights', problem }),
              ),
            ),
      ),
    ),
  );

  readonly writers = createEffect(() =>
    this.actions.pipe(
      ofType(rightsActions.showWriters),
      switchMap(({ find }) =>
        this.server.ask('rightsWriters', { query: { ...(find && { find }) } }).pipe(
          answered(
            (writers) => rightsActions.writersShown({ writers }),
            ({ problem }) => rightsActions.notShown({ view: 'writers', problem }),
          ),
        ),
      ),
    ),
  );

  readonly compare = createEffect(() =>
    this.actions.pipe(
      ofType(rightsActions.compare, rightsActions.compareNoMore, rightsActions.leave),
      switchMap((action) =>
        action.type !== rightsActions.compare.type
          ? EMPTY
          : this.server.ask('compareSnapshots', { path: { before: action.before, after: action.after } }).pipe(
              answered(
                (compared) => rightsActions.compared({ compared }),
                ({ problem }) => rightsActions.notShown({ view: 'compared', problem }),
              ),
            ),
      ),
    ),
  );

  readonly take = createEffect(() =>
    this.actions.pipe(
      ofType(rightsActions.takeSnapshot),
      exhaustMap(({ serverId, part }) =>
        this.server
          .ask('takeSnapshots', { path: { serverId }, body: { part } })
          .pipe(
            answered(
              () => rightsActions.done({ does: 'take snapshot', says: 'The snapshot has begun.' }),
              failed('take snapshot'),
            ),
          ),
      ),
    ),
  );

  readonly cancel = createEffect(() =>
    this.actions.pipe(
      ofType(rightsActions.cancelSnapshots),
      concatMap(({ ids }) =>
        forkJoin(ids.map((id) => this.server.ask('cancelSnapshot', { path: { id }, body: {} }))).pipe(
          answered(
            () => rightsActions.done({ does: 'cancel snapshot', says: 'The snapshot was cancelled.' }),
            failed('cancel snapshot'),
          ),
        ),
      ),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(rightsActions.removeSnapshot),
      concatMap(({ id }) =>
        this.server
          .ask('removeSnapshot', { path: { id } })
          .pipe(
            answered(
              () => rightsActions.done({ does: 'remove snapshot', says: 'The snapshot was removed.' }),
              failed('remove snapshot'),
            ),
          ),
      ),
    ),
  );
}

const failed =
  (does: RightsCommand) =>
  ({ problem }: { problem: ShownProblem }) =>
    rightsActions.failed({ does, problem });
