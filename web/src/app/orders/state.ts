import { createEntityAdapter } from '@ngrx/entity';
import type { EntityState } from '@ngrx/entity';
import type { Strategy } from '@loyal-hinge/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { byNumber, counted } from '@loyal-hinge/core';
import type { Proposal, ProposedOrder, WorkOrder, WorkOrderRow } from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';

export type OrderCommand =
  | { readonly does: 'approve' | 'withdraw' }
  | { readonly does: 'carry out'; readonly passphrase?: string }
  | { readonly does: 'done by hand' | 'undo'; readonly position: number };

/** What can be asked of the server here. */
export type OrderDoes = OrderCommand['does'] | 'propose' | 'propose plan' | 'decide';

export interface OrdersState extends EntityState<WorkOrderRow> {
  readonly loaded: boolean;
  /** The order that is looked at, by its id: what comes of others comes too late. */
  readonly looked: string | null;
  readonly order: WorkOrder | null;
  /** What waits for a second person beside the orders, and what was decided lately. */
  readonly proposals: readonly Proposal[];
  readonly commands: Commands<OrderDoes>;
  /** Why what is looked at can’t be shown. */
  readonly unshown: ShownProblem | null;
}

const adapter = createEntityAdapter<WorkOrderRow>();
const beginning: OrdersState = adapter.getInitialState({
  loaded: false,
  looked: null,
  order: null,
  proposals: [],
  commands: noCommands,
  unshown: null,
});

export const orderActions = createActionGroup({
  source: 'Work orders',
  events: {
    /** A page opens on which orders can be proposed: what others met is not told there. */
    begin: emptyProps(),
    /** The list opens. */
    load: emptyProps(),
    reload: emptyProps(),
    loaded: props<{ rows: WorkOrderRow[] }>(),
    open: props<{ id: string }>(),
    opened: props<{ order: WorkOrder }>(),
    /** Proposes an order, and goes to its page. */
    propose: props<{ order: ProposedOrder }>(),
    /** A whole plan, which the server has. */
    'propose plan': props<{ strategy: Strategy }>(),
    proposalsLoaded: props<{ proposals: readonly Proposal[] }>(),
    decide: props<{ proposal: Proposal; accepts: boolean }>(),
    command: props<{ id: string; command: OrderCommand }>(),
    /** `order`: how it stands now, where one came of it. */
    done: props<{ does: OrderDoes; order: WorkOrder | null }>(),
    failed: props<{ does: OrderDoes; problem: ShownProblem }>(),
    'not loaded': props<{ problem: ShownProblem }>(),
  },
});

export const ordersFeature = createFeature({
  name: 'orders',
  reducer: createReducer(
    beginning,
    on(orderActions.begin, orderActions.load, (state): OrdersState => ({ ...state, ...untold(state) })),
    on(orderActions.loaded, (state, { rows }): OrdersState => adapter.setAll(rows, { ...state, loaded: true })),
    on(orderActions.open, (state, { id }): OrdersState =>
      state.looked === id ? state : { ...state, ...untold(state), looked: id, order: null },
    ),
    on(orderActions.opened, (state, { order }): OrdersState => withOrder(state, order)),
    on(orderActions.proposalsLoaded, (state, { proposals }): OrdersState => ({ ...state, proposals })),
    on(orderActions.propose, (state) => beganWith(state, 'propose')),
    on(orderActions.proposePlan, (state) => beganWith(state, 'propose plan')),
    on(orderActions.decide, (state) => beganWith(state, 'decide')),
    on(orderActions.command, (state, { command }) => beganWith(state, command.does)),
    on(orderActions.done, (state, { does, order }): OrdersState => ({
      ...(order ? withOrder(state, order) : state),
      commands: ended(state.commands, does),
    })),
    on(orderActions.failed, (state, { does, problem }): OrdersState => ({
      ...state,
      commands: ended(state.commands, does, problem),
    })),
    on(orderActions.notLoaded, (state, { problem }): OrdersState => ({ ...state, unshown: problem })),
  ),
  extraSelectors: ({ selectOrdersState, selectOrder, selectCommands, selectUnshown }) => ({
    selectProblem: createSelector(selectCommands, selectUnshown, ({ problem }, unshown) => problem ?? unshown),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectRows: createSelector(selectOrdersState, adapter.getSelectors().selectAll),
    selectHeadline: createSelector(selectOrder, (order) => (order ? orderHeadline(order) : '')),
  }),
});

/** Whether one of these commands is under way; without any, whether any is. */
export const isRunning = (...does: readonly OrderDoes[]) =>
  createSelector(ordersFeature.selectRunning, (running) =>
    does.length === 0 ? running.length > 0 : running.some((one) => does.includes(one)),
  );

function untold({ commands }: OrdersState): Pick<OrdersState, 'commands' | 'unshown'> {
  return { commands: { ...commands, problem: null }, unshown: null };
}

function beganWith(state: OrdersState, does: OrderDoes): OrdersState {
  return { ...state, commands: begun(state.commands, does) };
}

function withOrder(state: OrdersState, order: WorkOrder): OrdersState {
  return order.id === state.looked ? { ...state, order, unshown: null } : state;
}

/** How an order stands, in one sentence. */
export function orderHeadline({ state, lines, proposedBy }: WorkOrder): string {
  const count = (...states: readonly string[]): number => lines.filter((line) => states.includes(line.state)).length;
  const failed = count('failed');
  const byHand = count('by hand');
  const parts = [
    ...(failed > 0 ? [byNumber(failed, '# line failed', '# lines failed')] : []),
    ...(byHand > 0 ? [byNumber(byHand, '# line waits for a person', '# lines wait for a person')] : []),
    `${count('done', 'proved')} of ${lines.length} done, ${count('proved')} proved`,
  ];
  switch (state) {
    case 'proposed':
      return `${counted(lines.length, 'change')} proposed by ${proposedBy}; nothing is done yet.`;
    case 'approved':
      return count('waiting') === lines.length ? 'Approved; nothing is done yet.' : `Stopped: ${parts.join(', ')}.`;
    case 'running':
      return `Being carried out: ${parts.join(', ')}.`;
    case 'done':
      return `Carried out: ${parts.join(', ')}.`;
    case 'proved':
      return lines.length === 1 ? 'Carried out and proved.' : `Carried out and proved: all ${lines.length} lines.`;
    case 'withdrawn':
      return 'Withdrawn; nothing was done.';
  }
}
