import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  ConduitWidth,
  ConduitWish,
  FirewallView,
  FirewallWish,
  PassageTurns,
  PassageView,
  RuleEdits,
  ServiceWish,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** What is written in a form: a new one where it has no id. */
export interface PassageEditing {
  readonly kind: 'firewall' | 'conduit' | 'service';
  readonly id: string | null;
}

export type PassageCommand = 'save' | 'remove' | 'import';

export interface PassageState {
  readonly view: View<PassageView>;
  readonly firewall: View<FirewallView>;
  readonly turns: View<PassageTurns>;
  /** What conduits let through that nobody needs. */
  readonly widths: View<readonly ConduitWidth[]>;
  /** Which firewall is looked at; null: none. */
  readonly firewallId: string | null;
  readonly editing: PassageEditing | null;
  readonly commands: Commands<PassageCommand>;
}

const beginning: PassageState = {
  view: noView,
  firewall: noView,
  turns: noView,
  widths: noView,
  firewallId: null,
  editing: null,
  commands: noCommands,
};

export const passageActions = createActionGroup({
  source: 'Passage',
  events: {
    show: emptyProps(),
    shown: props<{ view: PassageView }>(),
    'show widths': emptyProps(),
    'widths shown': props<{ widths: readonly ConduitWidth[] }>(),
    'look at firewall': props<{ firewallId: string }>(),
    'firewall shown': props<{ view: FirewallView }>(),
    'leave firewall': emptyProps(),
    try: props<{ firewallId: string; edits: RuleEdits['edits'] }>(),
    tried: props<{ turns: PassageTurns }>(),
    'try no more': emptyProps(),
    edit: props<{ editing: PassageEditing }>(),
    'edit no more': emptyProps(),
    'save firewall': props<{ id: string | null; wish: FirewallWish }>(),
    'save conduit': props<{ id: string | null; wish: ConduitWish }>(),
    'save service': props<{ id: string | null; wish: ServiceWish }>(),
    saved: props<{ says: string }>(),
    'remove firewall': props<{ id: string; name: string }>(),
    'remove conduit': props<{ id: string; name: string }>(),
    'remove service': props<{ id: string; name: string }>(),
    removed: props<{ says: string }>(),
    import: props<{ firewallId: string; name: string; text: string }>(),
    imported: props<{ view: FirewallView; says: string }>(),
    'import document': props<{ text: string }>(),
    'document imported': props<{ says: string }>(),
    failed: props<{ command: PassageCommand; problem: ShownProblem }>(),
    'not shown': props<{ view: 'view' | 'firewall' | 'turns' | 'widths'; problem: ShownProblem }>(),
  },
});

export const passageFeature = createFeature({
  name: 'passage',
  reducer: createReducer(
    beginning,
    on(passageActions.show, (state): PassageState => ({ ...state, view: asked(state.view) })),
    on(passageActions.shown, (state, { view }): PassageState => ({ ...state, view: shown(view) })),
    on(passageActions.showWidths, (state): PassageState => ({ ...state, widths: asked(state.widths) })),
    on(passageActions.widthsShown, (state, { widths }): PassageState => ({ ...state, widths: shown(widths) })),
    on(passageActions.lookAtFirewall, (state, { firewallId }): PassageState => ({
      ...state,
      firewallId,
      // Of another firewall, nothing that is shown is true.
      firewall: asked(state.firewall.shown?.firewall.id === firewallId ? state.firewall : noView),
      turns: state.firewallId === firewallId ? state.turns : noView,
    })),
    on(passageActions.firewallShown, (state, { view }): PassageState => ({ ...state, firewall: shown(view) })),
    on(passageActions.leaveFirewall, (state): PassageState => ({ ...state, firewallId: null, turns: noView })),
    on(passageActions.try, (state): PassageState => ({
      ...state,
      turns: asked(noView),
      // Why something else could not be done is told already.
      commands: { ...state.commands, problem: null },
    })),
    on(passageActions.tried, (state, { turns }): PassageState => ({ ...state, turns: shown(turns) })),
    on(passageActions.tryNoMore, (state): PassageState => ({ ...state, turns: noView })),
    on(passageActions.edit, (state, { editing }): PassageState => ({ ...state, editing })),
    on(passageActions.editNoMore, (state): PassageState => ({ ...state, editing: null })),
    on(passageActions.saveFirewall, passageActions.saveConduit, passageActions.saveService, (state): PassageState => ({
      ...state,
      commands: begun(state.commands, 'save'),
    })),
    on(passageActions.saved, (state): PassageState => ({
      ...state,
      editing: null,
      commands: ended(state.commands, 'save'),
    })),
    on(
      passageActions.removeFirewall,
      passageActions.removeConduit,
      passageActions.removeService,
      (state): PassageState => ({
        ...state,
        commands: begun(state.commands, 'remove'),
      }),
    ),
    on(passageActions.removed, (state): PassageState => ({ ...state, commands: ended(state.commands, 'remove') })),
    on(passageActions.import, (state): PassageState => ({ ...state, commands: begun(state.commands, 'import') })),
    on(passageActions.importDocument, (state): PassageState => ({
      ...state,
      commands: begun(state.commands, 'import'),
    })),
    on(passageActions.documentImported, (state): PassageState => ({
      ...state,
      commands: ended(state.commands, 'import'),
    })),
    on(passageActions.imported, (state, { view }): PassageState => ({
      ...state,
      commands: ended(state.commands, 'import'),
      turns: noView,
      firewall: state.firewallId === view.firewall.id ? shown(view) : state.firewall,
    })),
    on(passageActions.failed, (state, { command, problem }): PassageState => ({
      ...state,
      commands: ended(state.commands, command, problem),
    })),
    on(passageActions.notShown, (state, { view, problem }): PassageState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
  ),
  extraSelectors: ({ selectView, selectFirewall, selectTurns, selectWidths, selectCommands }) => ({
    selectKnown: createSelector(selectView, ({ shown: view }) => view),
    selectShownFirewall: createSelector(selectFirewall, ({ shown: view }) => view),
    /** By conduit; null: not reckoned yet. */
    selectWidthById: createSelector(selectWidths, ({ shown: widths }) =>
      widths ? new Map(widths.map((width) => [width.conduitId, width])) : null,
    ),
    selectShownTurns: createSelector(selectTurns, ({ shown: turns }) => turns),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectProblem: createSelector(
      selectView,
      selectFirewall,
      selectTurns,
      selectWidths,
      selectCommands,
      (view, firewall, turns, widths, { problem }) =>
        problem ?? view.problem ?? firewall.problem ?? turns.problem ?? widths.problem,
    ),
  }),
});
