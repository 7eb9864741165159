import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  Outpost,
  OutpostTicket,
  SignOutpost,
  TicketWish,
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

export type TunnelCommand =
  | { readonly does: 'save'; readonly id: string | null; readonly wish: TunnelWish }
  | { readonly does: 'remove'; readonly id: string; readonly name: string }
  | { readonly does: 'lead'; readonly id: string; readonly link: string; readonly wish: TunnelledLinkWish }
  | { readonly does: 'lead straight'; readonly id: string; readonly link: string; readonly linkId: string }
  | { readonly does: 'propose'; readonly id: string }
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

export interface TunnelsState {
  readonly list: View<TunnelsView>;
  readonly one: View<TunnelView>;
  readonly tunnelId: string | null;
  readonly signer: Signer | null;
  /** The tunnel that is written in the form; `new` for one that is not there yet; null: none. */
  readonly editing: string | null;
  readonly endForm: EndForm | null;
  /** Shown until something else is done. */
  readonly ticket: OutpostTicket | null;
  readonly commands: Commands<TunnelCommand['does']>;
}

const beginning: TunnelsState = {
  list: noView,
  one: noView,
  tunnelId: null,
  signer: null,
  editing: null,
  endForm: null,
  ticket: null,
  commands: noCommands,
};

export const tunnelActions = createActionGroup({
  source: 'Tunnels',
  events: {
    show: emptyProps(),
    shown: props<{ view: TunnelsView }>(),
    'look at': props<{ tunnelId: string }>(),
    'look again': emptyProps(),
    'one shown': props<{ view: TunnelView }>(),
    leave: emptyProps(),
    'not shown': props<{ view: 'list' | 'one'; problem: ShownProblem }>(),
    'signer found': props<{ signer: Signer | null }>(),
    edit: props<{ id: string | null }>(),
    'open form': props<{ endForm: EndForm | null }>(),
    'ticket taken': emptyProps(),
    command: props<{ command: TunnelCommand }>(),
    done: props<{ command: TunnelCommand; says: string; ticket?: OutpostTicket }>(),
    failed: props<{ command: TunnelCommand; problem: ShownProblem }>(),
  },
});

export const tunnelsFeature = createFeature({
  name: 'tunnels',
  reducer: createReducer(
    beginning,
    on(tunnelActions.show, (state): TunnelsState => ({ ...state, list: asked(state.list) })),
    on(tunnelActions.shown, (state, { view }): TunnelsState => ({ ...state, list: shown(view) })),
    on(tunnelActions.lookAt, (state, { tunnelId }): TunnelsState => ({
      ...state,
      tunnelId,
      // Of another tunnel, nothing that is shown is true.
      one: asked(state.one.shown?.tunnel.id === tunnelId ? state.one : noView),
    })),
    on(tunnelActions.oneShown, (state, { view }): TunnelsState =>
      view.tunnel.id === state.tunnelId ? { ...state, one: shown(view) } : state,
    ),
    on(tunnelActions.leave, (state): TunnelsState => ({ ...beginning, list: state.list, commands: state.commands })),
    on(tunnelActions.notShown, (state, { view, problem }): TunnelsState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
    on(tunnelActions.signerFound, (state, { signer }): TunnelsState => ({ ...state, signer })),
    on(tunnelActions.edit, (state, { id }): TunnelsState => ({
      ...state,
      editing: id,
      commands: { ...state.commands, problem: null },
    })),
    on(tunnelActions.openForm, (state, { endForm }): TunnelsState => ({ ...state, endForm, ticket: null })),
    on(tunnelActions.ticketTaken, (state): TunnelsState => ({ ...state, ticket: null })),
    on(tunnelActions.command, (state, { command }): TunnelsState => ({
      ...state,
      commands: begun(state.commands, command.does),
    })),
    on(tunnelActions.done, (state, { command, ticket }): TunnelsState => ({
      ...state,
      editing: command.does === 'save' ? null : state.editing,
      endForm: command.does === 'make ticket' || command.does === 'sign' ? null : state.endForm,
      ticket: ticket ?? (command.does === 'refuse' ? null : state.ticket),
      commands: ended(state.commands, command.does),
    })),
    on(tunnelActions.failed, (state, { command, problem }): TunnelsState => ({
      ...state,
      commands: ended(state.commands, command.does, problem),
    })),
  ),
  extraSelectors: ({ selectList, selectOne, selectCommands }) => ({
    selectShown: createSelector(selectList, ({ shown: view }) => view),
    selectOneShown: createSelector(selectOne, ({ shown: view }) => view),
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
