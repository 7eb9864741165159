import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { RightsChangeView, RightsServer, RightsView, RightsWish, RightsWriters } from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** What is looked at: the rights on one server, those that are looked for. */
export interface RightsLook {
  readonly serverId: string;
  readonly wish: RightsWish;
}

/** What has become of somebody’s rights between two snapshots. */
export interface RightsCompared {
  readonly changes: readonly RightsChangeView[];
  readonly total: number;
}

export interface RightsState {
  readonly servers: View<readonly RightsServer[]>;
  readonly rights: View<RightsView>;
  readonly compared: View<RightsCompared>;
  readonly writers: View<RightsWriters>;
  /** null: nobody looks. */
  readonly look: RightsLook | null;
  /** Nodes that the snapshot that is being taken has seen; null: none is. */
  readonly seen: number | null;
  readonly commands: Commands<RightsCommand>;
}

/** What can be asked of the server here. */
export type RightsCommand = 'take snapshot' | 'cancel snapshot' | 'remove snapshot';

const beginning: RightsState = {
  servers: noView,
  rights: noView,
  compared: noView,
  writers: noView,
  look: null,
  seen: null,
  commands: noCommands,
};

export const rightsActions = createActionGroup({
  source: 'Rights',
  events: {
    'show servers': emptyProps(),
    'servers shown': props<{ servers: readonly RightsServer[] }>(),
    look: props<{ look: RightsLook }>(),
    'show writers': props<{ find: string }>(),
    'writers shown': props<{ writers: RightsWriters }>(),
    'rights shown': props<{ rights: RightsView }>(),
    /** The rights that are looked at may be other than they are shown. */
    'look again': emptyProps(),
    leave: emptyProps(),
    'nodes seen': props<{ nodes: number }>(),
    compare: props<{ before: string; after: string }>(),
    compared: props<{ compared: RightsCompared }>(),
    'compare no more': emptyProps(),
    /** @param part a pattern; empty: of all nodes */
    'take snapshot': props<{ serverId: string; part: string }>(),
    'cancel snapshots': props<{ ids: readonly string[] }>(),
    'remove snapshot': props<{ id: string }>(),
    done: props<{ does: RightsCommand; says: string }>(),
    failed: props<{ does: RightsCommand; problem: ShownProblem }>(),
    'not shown': props<{ view: 'servers' | 'rights' | 'compared' | 'writers'; problem: ShownProblem }>(),
  },
});

const beganWith = (state: RightsState, does: RightsCommand): RightsState => ({
  ...state,
  commands: begun(state.commands, does),
});

/** Of another server, nothing that is shown is true. */
const isOf = (state: RightsState, serverId: string): boolean => state.rights.shown?.server.id === serverId;

export const rightsFeature = createFeature({
  name: 'rights',
  reducer: createReducer(
    beginning,
    on(rightsActions.showServers, (state): RightsState => ({ ...state, servers: asked(state.servers) })),
    on(rightsActions.serversShown, (state, { servers }): RightsState => ({ ...state, servers: shown(servers) })),
    on(rightsActions.look, (state, { look }): RightsState => ({
      ...state,
      look,
      rights: asked(isOf(state, look.serverId) ? state.rights : noView),
      seen: isOf(state, look.serverId) ? state.seen : null,
      compared: isOf(state, look.serverId) ? state.compared : noView,
    })),
    on(rightsActions.rightsShown, (state, { rights }): RightsState => ({
      ...state,
      rights: shown(rights),
      seen: rights.snapshots.some(({ endedAt }) => endedAt === null) ? (state.seen ?? 0) : null,
    })),
    on(rightsActions.showWriters, (state): RightsState => ({ ...state, writers: asked(state.writers) })),
    on(rightsActions.writersShown, (state, { writers }): RightsState => ({ ...state, writers: shown(writers) })),
    on(rightsActions.nodesSeen, (state, { nodes }): RightsState => ({ ...state, seen: nodes })),
    on(rightsActions.leave, (state): RightsState => ({ ...state, look: null, compared: noView })),
    on(rightsActions.compare, (state): RightsState => ({ ...state, compared: asked(noView) })),
    on(rightsActions.compared, (state, { compared }): RightsState => ({ ...state, compared: shown(compared) })),
    on(rightsActions.compareNoMore, (state): RightsState => ({ ...state, compared: noView })),
    on(rightsActions.takeSnapshot, (state) => beganWith(state, 'take snapshot')),
    on(rightsActions.cancelSnapshots, (state) => beganWith(state, 'cancel snapshot')),
    on(rightsActions.removeSnapshot, (state) => beganWith(state, 'remove snapshot')),
    on(rightsActions.done, (state, { does }): RightsState => ({ ...state, commands: ended(state.commands, does) })),
    on(rightsActions.failed, (state, { does, problem }): RightsState => ({
      ...state,
      commands: ended(state.commands, does, problem),
    })),
    on(rightsActions.notShown, (state, { view, problem }): RightsState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
  ),
  extraSelectors: ({ selectServers, selectRights, selectCompared, selectWriters, selectCommands }) => ({
    selectShownWriters: createSelector(selectWriters, (writers) => writers.shown),
    selectKnownServers: createSelector(selectServers, (servers) => servers.shown),
    selectShownRights: createSelector(selectRights, (rights) => rights.shown),
    selectProblem: createSelector(
      selectServers,
      selectRights,
      selectCompared,
      selectWriters,
      selectCommands,
      (servers, rights, compared, writers, { problem }) =>
        problem ?? servers.problem ?? rights.problem ?? compared.problem ?? writers.problem,
    ),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
  }),
});

/** Whether one of these commands is under way. */
export const isRunning = (...does: readonly RightsCommand[]) =>
  createSelector(rightsFeature.selectRunning, (running) => running.some((one) => does.includes(one)));
