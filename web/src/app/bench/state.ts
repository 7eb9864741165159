import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  BenchDescribed,
  BenchEvent,
  BenchEvents,
  BenchHeard,
  BenchHistory,
  BenchMatches,
  BenchNode,
  BenchOpened,
  BenchReading,
  BenchTyped,
  BenchValue,
  BenchWatching,
  BenchWritten,
  LinkRow,
  Recording,
  RecordingWish,
} from '@loyal-hinge/contract';
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
  /** The last one whose status was not bad: it stays where others come. */
  readonly lastGood: BenchValue | null;
  /** How often the server samples and publishes it; null: that is not told yet. */
  readonly intervals: BenchWatching | null;
  /** Newest last; at most as many as the sparkline shows. NaN: from there on nothing is known for a while. */
  readonly history: readonly { readonly at: number; readonly value: number }[];
}

/** An event with its number in the order in which they came: two may be the same in all else. */
export type HeardEvent = BenchEvent & { readonly number: number };

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
  /** How often watched values are asked for, in milliseconds. */
  readonly everyMs: number;
  /** Whether the session is there; null: that is not told yet. */
  readonly session: BenchHeard['session'];
  /** Attributes and references of the node that was read; null: nobody asked. */
  readonly described: BenchDescribed | null;
  /** What a value to be written to the node is held to; null: nobody writes. */
  readonly typed: BenchTyped | null;
  /** A value is being written. */
  readonly isWriting: boolean;
  /** What came of the last write of that node. */
  readonly written: BenchWritten | null;
  /** Variables that were found by a pattern; null: none were looked for. */
  readonly matches: BenchMatches | null;
  readonly isMatching: boolean;
  /** The watched node whose values are drawn large. */
  readonly trend: string | null;
  /** What was recorded, the newest first. */
  readonly recordings: readonly Recording[];
  /** The node whose recorded values are looked at, and of how many minutes; null: none. */
  readonly past: { readonly node: BenchNode; readonly minutes: number } | null;
  readonly history: BenchHistory | null;
  /** The node whose events are listened to; null: none. */
  readonly listening: BenchNode | null;
  /** The newest first. */
  readonly events: readonly HeardEvent[];
  readonly listeningSays: string;
}

const beginning: BenchState = {
  choices: null,
  bench: null,
  opening: false,
  problem: null,
  columns: [],
  reading: null,
  watched: [],
  everyMs: 500,
  session: null,
  described: null,
  typed: null,
  isWriting: false,
  written: null,
  matches: null,
  isMatching: false,
  trend: null,
  recordings: [],
  past: null,
  history: null,
  listening: null,
  events: [],
  listeningSays: '',
};
/** Older events go. */
export const mostEvents = 200;
/** So many values are kept of each watched node: ten minutes at two a second. */
export const historyLength = 1200;
/** As many as the server watches in one session. */
export const mostWatched = 200;

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
    /** Nodes that were found by a pattern: they are called by their paths, since many have the same name. */
    'watch all': props<{ nodes: BenchMatches['nodes'] }>(),
    'look for nodes': props<{ pattern: string }>(),
    'nodes found': props<{ matches: BenchMatches }>(),
    'let matches go': emptyProps(),
    describe: props<{ nodeId: string }>(),
    'was described': props<{ described: BenchDescribed }>(),
    'describe no more': emptyProps(),
    'begin writing': props<{ nodeId: string }>(),
    'can be typed': props<{ typed: BenchTyped }>(),
    'end writing': emptyProps(),
    write: props<{ typed: string; why: string }>(),
    undo: props<{ nodeId: string }>(),
    'was written': props<{ nodeId: string; written: BenchWritten }>(),
    record: props<{ wish: RecordingWish }>(),
    'stop recording': props<{ id: string }>(),
    'look at recordings': emptyProps(),
    'recordings shown': props<{ recordings: readonly Recording[] }>(),
    'show trend': props<{ nodeId: string | null }>(),
    'look back': props<{ node: BenchNode; minutes: number }>(),
    'history shown': props<{ history: BenchHistory }>(),
    'look back no more': emptyProps(),
    listen: props<{ node: BenchNode }>(),
    'events heard': props<{ heard: BenchEvents }>(),
    'listen no more': emptyProps(),
    heard: props<{ heard: BenchHeard }>(),
    /** The bench is not there any more: its server was away, or the page was. */
    gone: props<{ says: string }>(),
    /** A bench in its place, on the same link. */
    reopened: props<{ bench: BenchOpened }>(),
    'watch every': props<{ everyMs: number }>(),
    /** Reads the open columns anew. */
    'browse again': emptyProps(),
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
    on(benchActions.failed, (state, { problem }): BenchState => ({
      ...state,
      opening: false,
      isWriting: false,
      isMatching: false,
      problem,
    })),
    on(benchActions.choose, (state, { depth, node }): BenchState => {
      const kept = state.columns
        .slice(0, depth + 1)
        .map((column, index) => (index === depth ? { ...column, chosen: node.nodeId } : column));
      return {
        ...state,
        problem: null,
        reading: null,
        described: null,
        typed: null,
        written: null,
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
        : { ...state, watched: [...state.watched, watchedAnew(node, unit)] },
    ),
    on(benchActions.watchAll, (state, { nodes }): BenchState => {
      const known = new Set(state.watched.map(({ node }) => node.nodeId));
      const added = nodes.filter(({ nodeId }) => !known.has(nodeId)).slice(0, mostWatched - known.size);
      return {
        ...state,
        matches: null,
        watched: [
          ...state.watched,
          ...added.map(({ path, ...node }) => watchedAnew({ ...node, displayName: path }, '')),
        ],
      };
    }),
    on(benchActions.lookForNodes, (state): BenchState => ({ ...state, isMatching: true, problem: null })),
    on(benchActions.nodesFound, (state, { matches }): BenchState => ({ ...state, isMatching: false, matches })),
    on(benchActions.letMatchesGo, (state): BenchState => ({ ...state, matches: null })),
    on(benchActions.wasDescribed, (state, { described }): BenchState => ({ ...state, described })),
    on(benchActions.describeNoMore, (state): BenchState => ({ ...state, described: null })),
    on(benchActions.beginWriting, (state): BenchState => ({ ...state, written: null, problem: null })),
    on(benchActions.canBeTyped, (state, { typed }): BenchState => ({ ...state, typed })),
    on(benchActions.endWriting, (state): BenchState => ({ ...state, typed: null, written: null, problem: null })),
    on(benchActions.write, benchActions.undo, (state): BenchState => ({
      ...state,
      isWriting: true,
      written: null,
      problem: null,
    })),
    on(benchActions.wasWritten, (state, { written }): BenchState => ({ ...state, isWriting: false, written })),
    on(benchActions.recordingsShown, (state, { recordings }): BenchState => ({ ...state, recordings })),
    on(benchActions.showTrend, (state, { nodeId }): BenchState => ({ ...state, trend: nodeId })),
    on(benchActions.unwatch, (state, { nodeId }): BenchState => ({
      ...state,
      trend: state.trend === nodeId ? null : state.trend,
      watched: state.watched.filter((watched) => watched.node.nodeId !== nodeId),
    })),
    on(benchActions.heard, (state, { heard: { values, watching, session } }): BenchState => {
      const byNode = new Map(values.map((value) => [value.nodeId, value]));
      const intervals = new Map(watching.map((item) => [item.nodeId, item]));
      const isBroken = session?.isLost === true && state.session?.isLost !== true;
      return {
        ...state,
        session: session ?? state.session,
        watched: state.watched.map((watched) => {
          const told = intervals.get(watched.node.nodeId);
          const before = isBroken ? brokenAt(watched, Date.parse(session.at)) : watched;
          return withValue(told ? { ...before, intervals: told } : before, byNode.get(watched.node.nodeId));
        }),
      };
    }),
    on(benchActions.lookBack, (state, { node, minutes }): BenchState => ({
      ...state,
      past: { node, minutes },
      history: state.past?.node.nodeId === node.nodeId ? state.history : null,
      problem: null,
    })),
    on(benchActions.historyShown, (state, { history }): BenchState => ({ ...state, history })),
    on(benchActions.lookBackNoMore, (state): BenchState => ({ ...state, past: null, history: null })),
    on(benchActions.listen, (state, { node }): BenchState => ({
      ...state,
      listening: node,
      events: [],
      listeningSays: 'Beginning to listen …',
    })),
    on(benchActions.eventsHeard, (state, { heard: { events, says } }): BenchState => ({
      ...state,
      events: [...numbered(events, (state.events[0]?.number ?? 0) + 1).reverse(), ...state.events].slice(0, mostEvents),
      listeningSays: says ?? state.listeningSays,
    })),
    on(benchActions.listenNoMore, (state): BenchState => ({ ...state, listening: null, events: [] })),
    on(benchActions.gone, (state, { says }): BenchState => ({
      ...state,
      session: { isLost: true, at: state.session?.isLost ? state.session.at : new Date().toISOString(), says },
    })),
    on(benchActions.reopened, (state, { bench }): BenchState => ({ ...state, bench, problem: null })),
    on(benchActions.watchEvery, (state, { everyMs }): BenchState => ({ ...state, everyMs })),
    on(benchActions.close, (): BenchState => beginning),
  ),
  extraSelectors: ({ selectWatched, selectTrend }) => ({
    selectDrawn: createSelector(
      selectWatched,
      selectTrend,
      (watched, trend) => watched.find(({ node }) => node.nodeId === trend) ?? null,
    ),
    /** Changes only where the set of watched nodes changes. */
    selectWatchedIds: createSelector(selectWatched, (watched) => watched.map(({ node }) => node.nodeId).join('\n')),
  }),
});

function withValue(watched: Watched, value: BenchValue | undefined): Watched {
  if (!value) return watched;
  const at = Date.parse(value.sourceTimestamp ?? value.serverTimestamp ?? new Date().toISOString());
  const history =
    value.number === null ? watched.history : [...watched.history, { at, value: value.number }].slice(-historyLength);
  return { ...watched, value, lastGood: value.code.startsWith('Bad') ? watched.lastGood : value, history };
}

const numbered = (events: readonly BenchEvent[], from: number): HeardEvent[] =>
  events.map((event, index) => ({ ...event, number: from + index }));

/** Nothing is known of the time in which the session was lost: no line is drawn through it. */
const brokenAt = (watched: Watched, at: number): Watched =>
  watched.history.length === 0 ? watched : { ...watched, history: [...watched.history, { at, value: NaN }] };

const watchedAnew = (node: BenchNode, unit: string): Watched => ({
  node,
  unit,
  value: null,
  lastGood: null,
  intervals: null,
  history: [],
});
