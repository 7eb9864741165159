import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { RecipientRow, RecipientWish, RoundsView, RoundWish, TimelineView } from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** Which part of the timeline is looked at. */
export interface TimelineWish {
  readonly days: number;
  readonly find: string;
}

export type RoundsCommand = 'save' | 'remove' | 'run' | 'save recipient' | 'remove recipient' | 'try';
export interface RoundsState {
  readonly view: View<RoundsView>;
  readonly timeline: View<TimelineView>;
  /** null: nobody looks at it. */
  readonly wish: TimelineWish | null;
  readonly recipients: View<readonly RecipientRow[]>;
  /** The recipient whose form is open: its id, or `new`. */
  readonly editingRecipient: string | null;
  /** The round whose form is open: its id, or `new`. */
  readonly editing: string | null;
  readonly commands: Commands<RoundsCommand>;
}
const beginning: RoundsState = {
  view: noView,
  timeline: noView,
  wish: null,
  recipients: noView,
  editingRecipient: null,
  editing: null,
  commands: noCommands,
};

export const roundsActions = createActionGroup({
  source: 'Rounds',
  events: {
    show: emptyProps(),
    shown: props<{ view: RoundsView }>(),
    'look back': props<{ wish: TimelineWish }>(),
    'timeline shown': props<{ timeline: TimelineView }>(),
    leave: emptyProps(),
    'not shown': props<{ view: 'view' | 'timeline' | 'recipients'; problem: ShownProblem }>(),
    edit: props<{ id: string }>(),
    'edit no more': emptyProps(),
    save: props<{ id: string | null; wish: RoundWish }>(),
    remove: props<{ id: string; name: string }>(),
    run: props<{ id: string; name: string }>(),
    'show recipients': emptyProps(),
    'recipients shown': props<{ recipients: readonly RecipientRow[] }>(),
    'edit recipient': props<{ id: string | null }>(),
    'save recipient': props<{ id: string | null; wish: RecipientWish }>(),
    'remove recipient': props<{ id: string; name: string }>(),
    'try recipient': props<{ id: string; name: string }>(),
    done: props<{ command: RoundsCommand; says: string }>(),
    failed: props<{ command: RoundsCommand; problem: ShownProblem }>(),
  },
});

export const roundsFeature = createFeature({
  name: 'rounds',
  reducer: createReducer(
    beginning,
    on(roundsActions.show, (state): RoundsState => ({ ...state, view: asked(state.view) })),
    on(roundsActions.shown, (state, { view }): RoundsState => ({ ...state, view: shown(view) })),
    on(roundsActions.lookBack, (state, { wish }): RoundsState => ({ ...state, wish, timeline: asked(state.timeline) })),
    on(roundsActions.timelineShown, (state, { timeline }): RoundsState => ({ ...state, timeline: shown(timeline) })),
    on(roundsActions.leave, (state): RoundsState => ({ ...state, wish: null })),
    on(roundsActions.notShown, (state, { view, problem }): RoundsState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
    on(roundsActions.edit, (state, { id }): RoundsState => ({ ...state, editing: id })),
    on(roundsActions.editNoMore, (state): RoundsState => ({ ...state, editing: null })),
    on(roundsActions.save, (state): RoundsState => ({ ...state, commands: begun(state.commands, 'save') })),
    on(roundsActions.remove, (state): RoundsState => ({ ...state, commands: begun(state.commands, 'remove') })),
    on(roundsActions.run, (state): RoundsState => ({ ...state, commands: begun(state.commands, 'run') })),
    on(roundsActions.showRecipients, (state): RoundsState => ({ ...state, recipients: asked(state.recipients) })),
    on(roundsActions.recipientsShown, (state, { recipients }): RoundsState => ({
      ...state,
      recipients: shown(recipients),
    })),
    on(roundsActions.editRecipient, (state, { id }): RoundsState => ({ ...state, editingRecipient: id })),
    on(roundsActions.saveRecipient, (state): RoundsState => ({
      ...state,
      commands: begun(state.commands, 'save recipient'),
    })),
    on(roundsActions.removeRecipient, (state): RoundsState => ({
      ...state,
      commands: begun(state.commands, 'remove recipient'),
    })),
    on(roundsActions.tryRecipient, (state): RoundsState => ({ ...state, commands: begun(state.commands, 'try') })),
    on(roundsActions.done, (state, { command }): RoundsState => ({
      ...state,
      editing: command === 'save' ? null : state.editing,
      editingRecipient: command === 'save recipient' ? null : state.editingRecipient,
      commands: ended(state.commands, command),
    })),
    on(roundsActions.failed, (state, { command, problem }): RoundsState => ({
      ...state,
      commands: ended(state.commands, command, problem),
    })),
  ),
  extraSelectors: ({ selectView, selectTimeline, selectRecipients, selectCommands }) => ({
    selectShownRecipients: createSelector(selectRecipients, ({ shown: recipients }) => recipients),
    selectShown: createSelector(selectView, ({ shown: view }) => view),
    selectShownTimeline: createSelector(selectTimeline, ({ shown: timeline }) => timeline),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectProblem: createSelector(
      selectView,
      selectTimeline,
      selectRecipients,
      selectCommands,
      (view, timeline, recipients, { problem }) => problem ?? view.problem ?? timeline.problem ?? recipients.problem,
    ),
  }),
});
