import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { BenchNode, BenchOpened, BenchReading, BenchValue, LinkRow } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

/** One level of the browse: the children of a node, and which of them is open. */
export interface BenchColumn {
  readonly parent: string | null;
  readonly nodes: readonly BenchNode[] | null;
  readonly chosen: string | null;
}

export interface Watched {
  readonly node: BenchNode;
  readonly unit: string;
  readonly value: BenchValue | null;
  /** Newest last; at most as many as the sparkline shows. */
  readonly history: readonly { readonly at: number; readonly value: number }[];
}

/** Links on which a session can be held, as far as they are shown. */
export interface BenchChoices {
  readonly rows: readonly LinkRow[];
  readonly fitting: number;
}

export interface BenchState {
  /** null: not read yet. */
  readonly choices: BenchChoices | null;
  readonly bench: BenchOpened | null;
  readonly opening: boolean;
  readonly problem: ShownProblem | null;
  readonly columns: readonly BenchColumn[];
  readonly reading: BenchReading | null;
  readonly watched: readonly Watched[];
}

const beginning: BenchState = {
  choices: null,
  bench: null,
  opening: false,
  problem: null,
  columns: [],
  reading: null,
  watched: [],
};
export const historyLength = 120;

export const benchActions = createActionGroup({
  source: 'Bench',
  events: {
    'look for links': props<{ find: string }>(),
    'links found': props<{ choices: BenchChoices }>(),
    open: props<{ linkId: string }>(),
    opened: props<{ bench: BenchOpened }>(),
    failed: props<{ problem: ShownProblem }>(),
    choose: props<{ depth: number; node: BenchNode }>(),
    browsed: props<{ parent: string | null; nodes: BenchNode[] }>(),
    read: props<{ nodeId: string }>(),
    'was read': props<{ reading: BenchReading }>(),
    watch: props<{ node: BenchNode; unit: string }>(),
    unwatch: props<{ nodeId: string }>(),
    heard: props<{ values: BenchValue[] }>(),
    close: emptyProps(),
  },
});

export const benchFeature = createFeature({
  name: 'bench',
  reducer: createReducer(
    beginning,
    on(benchActions.linksFound, (state, { choices }): BenchState => ({ ...state, choices })),
    on(benchActions.open, (): BenchState => ({ ...beginning, opening: true })),
    on(benchActions.opened, (state, { bench }): BenchState => ({
      ...state,
      opening: false,
      bench,
      columns: [{ parent: null, nodes: null, chosen: null }],
    })),
    on(benchActions.failed, (state, { problem }): BenchState => ({ ...state, opening: false, problem })),
    on(benchActions.choose, (state, { depth, node }): BenchState => {
      const kept = state.columns
        .slice(0, depth + 1)
        .map((column, index) => (index === depth ? { ...column, chosen: node.nodeId } : column));
      return {
        ...state,
        problem: null,
        reading: null,
        columns: [...kept, { parent: node.nodeId, nodes: null, chosen: null }],
      };
    }),
    on(benchActions.browsed, (state, { parent, nodes }): BenchState => ({
      ...state,
      columns: state.columns.map((column) => (column.parent === parent ? { ...column, nodes } : column)),
    })),
    on(benchActions.wasRead, (state, { reading }): BenchState => ({ ...state, reading })),
    on(benchActions.watch, (state, { node, unit }): BenchState =>
      state.watched.some((watched) => watched.node.nodeId === node.nodeId)
        ? state
        : { ...state, watched: [...state.watched, { node, unit, value: null, history: [] }] },
    ),
    on(benchActions.unwatch, (state, { nodeId }): BenchState => ({
      ...state,
      watched: state.watched.filter((watched) => watched.node.nodeId !== nodeId),
    })),
    on(benchActions.heard, (state, { values }): BenchState => {
      const byNode = new Map(values.map((value) => [value.nodeId, value]));
      return { ...state, watched: state.watched.map((watched) => withValue(watched, byNode.get(watched.node.nodeId))) };
    }),
    on(benchActions.close, (): BenchState => beginning),
  ),
  extraSelectors: ({ selectWatched }) => ({
    /** Changes only where the set of watched nodes changes. */
    selectWatchedIds: createSelector(selectWatched, (watched) => watched.map(({ node }) => node.nodeId).join('\n')),
  }),
});

function withValue(watched: Watched, value: BenchValue | undefined): Watched {
  if (!value) return watched;
  const at = Date.parse(value.sourceTimestamp ?? value.serverTimestamp ?? new Date().toISOString());
  const history =
    value.number === null ? watched.history : [...watched.history, { at, value: value.number }].slice(-historyLength);
  return { ...watched, value, history };
}
