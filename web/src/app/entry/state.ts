import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { DoorRule, EntryFloor } from '@loyal-hinge/core';
import type { DoorTurns, EntryClosing, EntryFloors, EntryPage, EntryView, GiveException } from '@loyal-hinge/contract';
import type { Choice } from '../forms/choose';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** What is looked at here. */
interface Shown {
  readonly doors: EntryView;
  readonly closing: EntryClosing;
  readonly turns: DoorTurns;
  readonly floors: EntryFloors;
}
export type EntryViewName = keyof Shown;

export interface EntryState {
  readonly views: { readonly [Name in EntryViewName]: View<Shown[Name]> };
  /** Which servers are wished for; null: nobody looks at them. */
  readonly wish: EntryPage | null;
  /** Doors that are closed or opened in the what-if that is looked at. */
  readonly rules: readonly DoorRule[];
  /** Servers or links that an exception can be made for, as far as they were looked for. */
  readonly subjects: readonly Choice[];
  readonly commands: Commands<EntryCommand>;
}

/** What can be asked of the server here. */
export type EntryCommand = 'save floor' | 'add exception' | 'end exception';

const beginning: EntryState = {
  views: { doors: noView, closing: noView, turns: noView, floors: noView },
  wish: null,
  rules: [],
  subjects: [],
  commands: noCommands,
};

export const entryActions = createActionGroup({
  source: 'Entry',
  events: {
    'show doors': props<{ wish: EntryPage }>(),
    'doors shown': props<{ doors: EntryView }>(),
    'show closing': emptyProps(),
    'closing shown': props<{ closing: EntryClosing }>(),
    'try out': props<{ rules: readonly DoorRule[] }>(),
    'turns shown': props<{ turns: DoorTurns }>(),
    'show floors': emptyProps(),
    'floors shown': props<{ floors: EntryFloors }>(),
    'look for subjects': props<{ of: GiveException['of']; find: string }>(),
    'subjects found': props<{ subjects: readonly Choice[] }>(),
    /** Something may be other than it is shown. */
    'show again': emptyProps(),
    leave: emptyProps(),
    'not shown': props<{ view: EntryViewName; problem: ShownProblem }>(),
    'save floor': props<{ floor: EntryFloor }>(),
    'add exception': props<{ wish: GiveException }>(),
    'end exception': props<{ id: number }>(),
    done: props<{ does: EntryCommand; says: string }>(),
    failed: props<{ does: EntryCommand; problem: ShownProblem }>(),
  },
});

const withView = <Name extends EntryViewName>(state: EntryState, name: Name, view: View<Shown[Name]>): EntryState => ({
  ...state,
  views: { ...state.views, [name]: view },
});
const beganWith = (state: EntryState, does: EntryCommand): EntryState => ({
  ...state,
  commands: begun(state.commands, does),
});

export const entryFeature = createFeature({
  name: 'entry',
  reducer: createReducer(
    beginning,
    on(entryActions.showDoors, (state, { wish }) => ({ ...withView(state, 'doors', asked(state.views.doors)), wish })),
    on(entryActions.doorsShown, (state, { doors }) => withView(state, 'doors', shown(doors))),
    on(entryActions.showClosing, (state) => withView(state, 'closing', asked(state.views.closing))),
    on(entryActions.closingShown, (state, { closing }) => withView(state, 'closing', shown(closing))),
    on(entryActions.tryOut, (state, { rules }) => ({
      ...withView(state, 'turns', rules.length === 0 ? noView : asked(state.views.turns)),
      rules,
    })),
    // The answer to rules that are taken back may come late.
    on(entryActions.turnsShown, (state, { turns }) =>
      state.rules.length === 0 ? state : withView(state, 'turns', shown(turns)),
    ),
    on(entryActions.showFloors, (state) => withView(state, 'floors', asked(state.views.floors))),
    on(entryActions.floorsShown, (state, { floors }) => withView(state, 'floors', shown(floors))),
    on(entryActions.subjectsFound, (state, { subjects }): EntryState => ({ ...state, subjects })),
    on(entryActions.leave, (state): EntryState => ({ ...state, wish: null, rules: [] })),
    on(entryActions.notShown, (state, { view, problem }): EntryState => ({
      ...state,
      views: { ...state.views, [view]: notShown<unknown>(state.views[view], problem) },
    })),
    on(entryActions.saveFloor, (state) => beganWith(state, 'save floor')),
    on(entryActions.addException, (state) => beganWith(state, 'add exception')),
    on(entryActions.endException, (state) => beganWith(state, 'end exception')),
    on(entryActions.done, (state, { does }): EntryState => ({ ...state, commands: ended(state.commands, does) })),
    on(entryActions.failed, (state, { does, problem }): EntryState => ({
      ...state,
      commands: ended(state.commands, does, problem),
    })),
  ),
  extraSelectors: ({ selectViews, selectCommands }) => ({
    selectDoors: createSelector(selectViews, ({ doors }) => doors.shown),
    selectClosing: createSelector(selectViews, ({ closing }) => closing.shown),
    selectTurns: createSelector(selectViews, ({ turns }) => turns),
    selectFloors: createSelector(selectViews, ({ floors }) => floors.shown),
    selectProblem: createSelector(
      selectViews,
      selectCommands,
      ({ doors, closing, turns, floors }, { problem }) =>
        problem ?? doors.problem ?? turns.problem ?? closing.problem ?? floors.problem,
    ),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectDone: createSelector(selectCommands, ({ done }) => done),
  }),
});

/** Whether one of these commands is under way. */
export const isRunning = (...does: readonly EntryCommand[]) =>
  createSelector(entryFeature.selectRunning, (running) => running.some((one) => does.includes(one)));
