import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { BodyOf, OriginWish, PlantChoices, RegisterSearch, RegisterSearchWish } from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

export type FieldCommand = 'save' | 'remove' | 'search' | 'end search';
export interface FieldState {
  /** Machines that may be the device. */
  readonly devices: View<PlantChoices>;
  /** The item whose origin is being stated; null: none is. */
  readonly editing: string | null;
  /** Searches on the link that is looked at, the newest first. */
  readonly searches: View<readonly RegisterSearch[]>;
  readonly commands: Commands<FieldCommand>;
}
const beginning: FieldState = { devices: noView, editing: null, searches: noView, commands: noCommands };

/** On the page of which link an origin is changed: it is shown anew afterwards. */
interface At {
  readonly linkId: string;
  readonly serverId: string;
}

export const fieldActions = createActionGroup({
  source: 'Field',
  events: {
    'look for devices': props<{ find: string }>(),
    'devices found': props<{ devices: PlantChoices }>(),
    'devices not found': props<{ problem: ShownProblem }>(),
    edit: props<{ path: string }>(),
    'edit no more': emptyProps(),
    save: props<At & { wish: OriginWish }>(),
    'save many': props<At & { wish: BodyOf<'putOriginPattern'>; says: string }>(),
    remove: props<At & { path: string }>(),
    'show searches': props<{ linkId: string }>(),
    'searches shown': props<{ searches: readonly RegisterSearch[] }>(),
    'searches not shown': props<{ problem: ShownProblem }>(),
    'search goes on': props<{ search: RegisterSearch }>(),
    'leave searches': emptyProps(),
    search: props<{ linkId: string; wish: RegisterSearchWish }>(),
    'end search': props<{ id: string }>(),
    done: props<{ command: FieldCommand; linkId: string; says: string }>(),
    failed: props<{ command: FieldCommand; problem: ShownProblem }>(),
  },
});

export const fieldFeature = createFeature({
  name: 'field',
  reducer: createReducer(
    beginning,
    on(fieldActions.lookForDevices, (state): FieldState => ({ ...state, devices: asked(state.devices) })),
    on(fieldActions.devicesFound, (state, { devices }): FieldState => ({ ...state, devices: shown(devices) })),
    on(fieldActions.devicesNotFound, (state, { problem }): FieldState => ({
      ...state,
      devices: notShown(state.devices, problem),
    })),
    on(fieldActions.edit, (state, { path }): FieldState => ({
      ...state,
      editing: path,
      commands: { ...state.commands, problem: null },
    })),
    on(fieldActions.editNoMore, (state): FieldState => ({ ...state, editing: null })),
    on(fieldActions.showSearches, (state): FieldState => ({ ...state, searches: asked(state.searches) })),
    on(fieldActions.searchesShown, (state, { searches }): FieldState => ({ ...state, searches: shown(searches) })),
    on(fieldActions.searchesNotShown, (state, { problem }): FieldState => ({
      ...state,
      searches: notShown(state.searches, problem),
    })),
    on(fieldActions.searchGoesOn, (state, { search }): FieldState => {
      const others = (state.searches.shown ?? []).filter(({ id }) => id !== search.id);
      return {
        ...state,
        searches: shown([search, ...others]),
        commands: state.commands.running.includes('search') ? ended(state.commands, 'search') : state.commands,
      };
    }),
    on(fieldActions.leaveSearches, (state): FieldState => ({ ...state, searches: noView })),
    on(fieldActions.search, (state): FieldState => ({ ...state, commands: begun(state.commands, 'search') })),
    on(fieldActions.save, (state): FieldState => ({ ...state, commands: begun(state.commands, 'save') })),
    on(fieldActions.saveMany, (state): FieldState => ({ ...state, commands: begun(state.commands, 'save') })),
    on(fieldActions.remove, (state): FieldState => ({ ...state, commands: begun(state.commands, 'remove') })),
    on(fieldActions.done, (state, { command }): FieldState => ({
      ...state,
      editing: null,
      commands: ended(state.commands, command),
    })),
    on(fieldActions.failed, (state, { command, problem }): FieldState => ({
      ...state,
      commands: ended(state.commands, command, problem),
    })),
  ),
  extraSelectors: ({ selectDevices, selectSearches, selectCommands }) => ({
    selectFound: createSelector(selectDevices, ({ shown: devices }) => devices),
    selectBusy: createSelector(selectCommands, ({ running }) => running.length > 0),
    selectProblem: createSelector(
      selectDevices,
      selectSearches,
      selectCommands,
      (devices, searches, { problem }) => problem ?? devices.problem ?? searches.problem,
    ),
  }),
});
