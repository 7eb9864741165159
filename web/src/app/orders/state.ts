import { createEntityAdapter } from '@ngrx/entity';
import type { EntityState } from '@ngrx/entity';
import type { Strategy } from '@loyal-hinge/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { counted } from '@loyal-hinge/core';
import type { Proposal, ProposedOrder, WorkOrder, WorkOrderRow } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

export type OrderCommand =
  | { readonly does: 'approve' | 'withdraw' }
  | { readonly does: 'carry out'; readonly passphrase?: string }
  | { readonly does: 'done by hand' | 'undo'; readonly position: number };

export interface OrdersState extends EntityState<WorkOrderRow> {
  readonly loaded: boolean;
  readonly order: WorkOrder | null;
  /** What waits for a second person beside the orders, and what was decided lately. */
  readonly proposals: readonly Proposal[];
  readonly busy: boolean;
  readonly problem: ShownProblem | null;
}

const adapter = createEntityAdapter<WorkOrderRow>();
const beginning: OrdersState = adapter.getInitialState({
  loaded: false,
  order: null,
  proposals: [],
  busy: false,
  problem: null,
});

export const orderActions = createActionGroup({
  source: 'Work orders',
  events: {
    load: emptyProps(),
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
    failed: props<{ problem: ShownProblem }>(),
  },
});

export const ordersFeature = createFeature({
  name: 'orders',
  reducer: createReducer(
    beginning,
    on(orderActions.load, (state): OrdersState => ({ ...state, problem: null })),
    on(orderActions.loaded, (state, { rows }): OrdersState => adapter.setAll(rows, { ...state, loaded: true })),
    on(orderActions.open, (state, { id }): OrdersState => ({
      ...state,
      order: state.order?.id === id ? state.order : null,
      problem: state.order?.id === id ? state.problem : null,
    })),
    on(orderActions.opened, (state, { order }): OrdersState => ({ ...state, order, busy: false })),
    on(orderActions.proposalsLoaded, (state, { proposals }): OrdersState => ({ ...state, proposals, busy: false })),
    on(
      orderActions.propose,
      orderActions.proposePlan,
      orderActions.decide,
      orderActions.command,
      (state): OrdersState => ({
        ...state,
        busy: true,
        problem: null,
      }),
    ),
    on(orderActions.failed, (state, { problem }): OrdersState => ({ ...state, busy: false, problem })),
  ),
  extraSelectors: ({ selectOrdersState, selectOrder }) => ({
    selectRows: createSelector(selectOrdersState, adapter.getSelectors().selectAll),
    selectHeadline: createSelector(selectOrder, (order) => (order ? orderHeadline(order) : '')),
  }),
});

/** How an order stands, in one sentence. */
export function orderHeadline({ state, lines, proposedBy }: WorkOrder): string {
  const count = (...states: readonly string[]): number => lines.filter((line) => states.includes(line.state)).length;
  const failed = count('failed');
  const byHand = count('by hand');
  const parts = [
    ...(failed > 0 ? [`${counted(failed, 'line')} failed`] : []),
    ...(byHand > 0 ? [`${counted(byHand, 'line')} ${byHand === 1 ? 'waits' : 'wait'} for a person`] : []),
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
