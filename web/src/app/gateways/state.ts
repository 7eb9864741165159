import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  GatewayItemsView,
  GatewayView,
  GatewayWish,
  GatewaysView,
  PlaceOfGateway,
  RelayWish,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

export type GatewayCommand =
  | { readonly does: 'save'; readonly id: string | null; readonly wish: GatewayWish }
  | { readonly does: 'remove'; readonly id: string; readonly name: string }
  | { readonly does: 'save places'; readonly id: string; readonly places: readonly PlaceOfGateway[] }
  | { readonly does: 'save relay'; readonly id: string; readonly relayId: string | null; readonly wish: RelayWish }
  | { readonly does: 'remove relay'; readonly id: string; readonly relayId: string }
  | { readonly does: 'import relays'; readonly id: string; readonly csv: string }
  | { readonly does: 'export relays'; readonly id: string };

/** Which items are looked at. */
export interface ItemsWish {
  readonly find: string;
  readonly from: number;
}

/** Both ends of a relay while it is written, with the items that are like them. */
export type RelayEnd = 'to' | 'from';
export type Sought = Readonly<Record<RelayEnd, GatewayItemsView['items']>>;
const noneSought: Sought = { to: [], from: [] };

export interface GatewaysState {
  readonly list: View<GatewaysView>;
  readonly one: View<GatewayView>;
  readonly gatewayId: string | null;
  readonly items: View<GatewayItemsView>;
  /** null: nobody looks at items. */
  readonly wish: ItemsWish | null;
  /** `new`, or the gateway that is changed; null: none. */
  readonly editing: string | null;
  /** `new`, or the relay that is changed; null: none. */
  readonly relay: string | null;
  /** The place that is changed, by its number; `new` for one that is not there yet; null: none. */
  readonly place: number | 'new' | null;
  readonly sought: Sought;
  readonly commands: Commands<GatewayCommand['does']>;
}

const beginning: GatewaysState = {
  list: noView,
  one: noView,
  gatewayId: null,
  items: noView,
  wish: null,
  editing: null,
  relay: null,
  place: null,
  sought: noneSought,
  commands: noCommands,
};

export const gatewayActions = createActionGroup({
  source: 'Gateways',
  events: {
    show: emptyProps(),
    shown: props<{ view: GatewaysView }>(),
    'look at': props<{ gatewayId: string }>(),
    'look again': emptyProps(),
    'one shown': props<{ view: GatewayView }>(),
    'look at items': props<{ wish: ItemsWish | null }>(),
    'items shown': props<{ items: GatewayItemsView }>(),
    leave: emptyProps(),
    'not shown': props<{ view: 'list' | 'one' | 'items'; problem: ShownProblem }>(),
    edit: props<{ id: string | null }>(),
    'edit relay': props<{ relayId: string | null }>(),
    'edit place': props<{ place: number | 'new' | null }>(),
    seek: props<{ end: RelayEnd; find: string }>(),
    sought: props<{ end: RelayEnd; items: GatewayItemsView['items'] }>(),
    command: props<{ command: GatewayCommand }>(),
    done: props<{ command: GatewayCommand; says: string }>(),
    failed: props<{ command: GatewayCommand; problem: ShownProblem }>(),
  },
});

export const gatewaysFeature = createFeature({
  name: 'gateways',
  reducer: createReducer(
    beginning,
    on(gatewayActions.show, (state): GatewaysState => ({ ...state, list: asked(state.list) })),
    on(gatewayActions.shown, (state, { view }): GatewaysState => ({ ...state, list: shown(view) })),
    on(gatewayActions.lookAt, (state, { gatewayId }): GatewaysState => ({
      ...state,
      gatewayId,
      // Of another gateway, nothing that is shown is true.
      one: asked(state.one.shown?.gateway.outpost.id === gatewayId ? state.one : noView),
    })),
    on(gatewayActions.oneShown, (state, { view }): GatewaysState =>
      view.gateway.outpost.id === state.gatewayId ? { ...state, one: shown(view) } : state,
    ),
    on(gatewayActions.lookAtItems, (state, { wish }): GatewaysState => ({ ...state, wish, items: asked(state.items) })),
    on(gatewayActions.itemsShown, (state, { items }): GatewaysState => ({ ...state, items: shown(items) })),
    on(gatewayActions.leave, (state): GatewaysState => ({ ...beginning, list: state.list, commands: state.commands })),
    on(gatewayActions.notShown, (state, { view, problem }): GatewaysState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
    on(gatewayActions.edit, (state, { id }): GatewaysState => ({
      ...state,
      editing: id,
      commands: { ...state.commands, problem: null },
    })),
    on(gatewayActions.editRelay, (state, { relayId }): GatewaysState => ({
      ...state,
      relay: relayId,
      sought: noneSought,
      commands: { ...state.commands, problem: null },
    })),
    on(gatewayActions.editPlace, (state, { place }): GatewaysState => ({
      ...state,
      place,
      commands: { ...state.commands, problem: null },
    })),
    on(gatewayActions.sought, (state, { end, items }): GatewaysState => ({
      ...state,
      sought: { ...state.sought, [end]: items },
    })),
    on(gatewayActions.command, (state, { command }): GatewaysState => ({
      ...state,
      commands: begun(state.commands, command.does),
    })),
    on(gatewayActions.done, (state, { command }): GatewaysState => ({
      ...state,
      editing: command.does === 'save' ? null : state.editing,
      relay: command.does === 'save relay' ? null : state.relay,
      place: command.does === 'save places' ? null : state.place,
      commands: ended(state.commands, command.does),
    })),
    on(gatewayActions.failed, (state, { command, problem }): GatewaysState => ({
      ...state,
      commands: ended(state.commands, command.does, problem),
    })),
  ),
  extraSelectors: ({ selectList, selectOne, selectItems, selectCommands }) => ({
    selectShown: createSelector(selectList, ({ shown: view }) => view),
    selectOneShown: createSelector(selectOne, ({ shown: view }) => view),
    selectItemsShown: createSelector(selectItems, ({ shown: items }) => items),
    /** Why the items can’t be shown: the rest of the page can. */
    selectItemsProblem: createSelector(selectItems, ({ problem }) => problem),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectRefused: createSelector(selectCommands, ({ problem }) => problem),
    selectProblem: createSelector(
      selectList,
      selectOne,
      selectCommands,
      (list, one, { problem }) => problem ?? list.problem ?? one.problem,
    ),
  }),
});
