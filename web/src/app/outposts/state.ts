import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  Outpost,
  OutpostTicket,
  ProbesView,
  ProbeWish,
  SignOutpost,
  TicketWish,
  TunnelChoices,
  TunnelView,
  TunnelWish,
  TunnelledLinkWish,
  TunnelsView,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

export type OutpostCommand =
  | { readonly does: 'save probe'; readonly id: string | null; readonly wish: ProbeWish }
  | { readonly does: 'remove probe'; readonly id: string; readonly name: string }
  | { readonly does: 'save'; readonly id: string | null; readonly wish: TunnelWish }
  | { readonly does: 'remove'; readonly id: string; readonly name: string }
  | { readonly does: 'lead'; readonly id: string; readonly link: string; readonly wish: TunnelledLinkWish }
  | { readonly does: 'lead straight'; readonly id: string; readonly link: string; readonly linkId: string }
  | { readonly does: 'propose' | 'propose taking down'; readonly id: string }
  | { readonly does: 'make ticket'; readonly outpost: Outpost; readonly wish: TicketWish }
  | { readonly does: 'bring request'; readonly outpost: Outpost; readonly requestPem: string }
  | { readonly does: 'sign'; readonly outpost: Outpost; readonly wish: SignOutpost }
  | { readonly does: 'refuse'; readonly outpost: Outpost }
  | { readonly does: 'fetch bundle'; readonly outpost: Outpost };

/** Who can sign for an outpost: the plant’s authority, where its key is kept here. */
export interface Signer {
  readonly thumbprint: string;
  readonly name: string;
}

/** What is written in a form beside one end. */
export interface EndForm {
  readonly outpostId: string;
  readonly form: 'ticket' | 'sign';
}

export interface OutpostsState {
  readonly list: View<TunnelsView>;
  readonly one: View<TunnelView>;
  /** What can be chosen for the one that is looked at. */
  readonly choices: View<TunnelChoices>;
  readonly tunnelId: string | null;
  readonly probes: View<ProbesView>;
  readonly signer: Signer | null;
  /** The tunnel or probe that is written in the form; `new` for one that is not there yet; null: none. */
  readonly editing: string | null;
  readonly endForm: EndForm | null;
  /** Shown until something else is done. */
  readonly ticket: OutpostTicket | null;
  readonly commands: Commands<OutpostCommand['does']>;
}

const beginning: OutpostsState = {
  list: noView,
  one: noView,
  choices: noView,
  tunnelId: null,
  probes: noView,
  signer: null,
  editing: null,
  endForm: null,
  ticket: null,
  commands: noCommands,
};

export const outpostActions = createActionGroup({
  source: 'Outposts',
  events: {
    show: emptyProps(),
    shown: props<{ view: TunnelsView }>(),
    'look at': props<{ tunnelId: string }>(),
    'look again': emptyProps(),
    'one shown': props<{ view: TunnelView }>(),
    'ask for choices': emptyProps(),
    'choices shown': props<{ tunnelId: string; choices: TunnelChoices }>(),
    leave: emptyProps(),
    'show probes': emptyProps(),
    'probes shown': props<{ view: ProbesView }>(),
    'not shown': props<{ view: 'list' | 'one' | 'choices' | 'probes'; problem: ShownProblem }>(),
    'find signer': emptyProps(),
    'signer found': props<{ signer: Signer | null }>(),
    edit: props<{ id: string | null }>(),
    'open form': props<{ endForm: EndForm | null }>(),
    'ticket taken': emptyProps(),
    command: props<{ command: OutpostCommand }>(),
    done: props<{ command: OutpostCommand; says: string; ticket?: OutpostTicket }>(),
    failed: props<{ command: OutpostCommand; problem: ShownProblem }>(),
  },
});

/** Whether a form is the one that a command was written in: another one may be open by the time that it is done. */
const isFormOf = (endForm: EndForm | null, command: OutpostCommand): boolean =>
  (command.does === 'make ticket' || command.does === 'sign') &&
  endForm?.outpostId === command.outpost.id &&
  endForm.form === (command.does === 'sign' ? 'sign' : 'ticket');

export const outpostsFeature = createFeature({
  name: 'outposts',
  reducer: createReducer(
    beginning,
    on(outpostActions.show, (state): OutpostsState => ({ ...state, list: asked(state.list) })),
    on(outpostActions.shown, (state, { view }): OutpostsState => ({ ...state, list: shown(view) })),
    on(outpostActions.lookAt, (state, { tunnelId }): OutpostsState => ({
      ...state,
      tunnelId,
      // Of another tunnel, nothing that is shown is true.
      one: asked(state.one.shown?.tunnel.id === tunnelId ? state.one : noView),
      choices: asked(state.tunnelId === tunnelId ? state.choices : noView),
    })),
    on(outpostActions.choicesShown, (state, { tunnelId, choices }): OutpostsState =>
      tunnelId === state.tunnelId ? { ...state, choices: shown(choices) } : state,
    ),
    on(outpostActions.oneShown, (state, { view }): OutpostsState =>
      view.tunnel.id === state.tunnelId ? { ...state, one: shown(view) } : state,
    ),
    on(outpostActions.leave, (state): OutpostsState => ({
      ...beginning,
      list: state.list,
      commands: state.commands,
    })),
    on(outpostActions.notShown, (state, { view, problem }): OutpostsState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
    on(outpostActions.showProbes, (state): OutpostsState => ({ ...state, probes: asked(state.probes) })),
    on(outpostActions.probesShown, (state, { view }): OutpostsState => ({ ...state, probes: shown(view) })),
    on(outpostActions.signerFound, (state, { signer }): OutpostsState => ({ ...state, signer })),
    on(outpostActions.edit, (state, { id }): OutpostsState => ({
      ...state,
      editing: id,
      commands: { ...state.commands, problem: null },
    })),
    on(outpostActions.openForm, (state, { endForm }): OutpostsState => ({ ...state, endForm, ticket: null })),
    on(outpostActions.ticketTaken, (state): OutpostsState => ({ ...state, ticket: null })),
    on(outpostActions.command, (state, { command }): OutpostsState => ({
      ...state,
      commands: begun(state.commands, command.does),
    })),
    on(outpostActions.done, (state, { command, ticket }): OutpostsState => ({
      ...state,
      editing: command.does === 'save' || command.does === 'save probe' ? null : state.editing,
      endForm: isFormOf(state.endForm, command) ? null : state.endForm,
      ticket: ticket ?? (command.does === 'refuse' ? null : state.ticket),
      commands: ended(state.commands, command.does),
    })),
    on(outpostActions.failed, (state, { command, problem }): OutpostsState => ({
      ...state,
      commands: ended(state.commands, command.does, problem),
    })),
  ),
  extraSelectors: ({ selectList, selectOne, selectChoices, selectProbes, selectCommands }) => ({
    selectShown: createSelector(selectList, ({ shown: view }) => view),
    selectOneShown: createSelector(selectOne, ({ shown: view }) => view),
    selectChoicesShown: createSelector(selectChoices, ({ shown: choices }) => choices),
    selectProbesShown: createSelector(selectProbes, ({ shown: view }) => view),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectRefused: createSelector(selectCommands, ({ problem }) => problem),
    selectProblem: createSelector(
      selectList,
      selectOne,
      selectChoices,
      selectProbes,
      selectCommands,
      (list, one, choices, probes, { problem }) =>
        problem ?? list.problem ?? one.problem ?? choices.problem ?? probes.problem,
    ),
  }),
});
