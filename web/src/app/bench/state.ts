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

/** A session that is open, and how it stands; null: that is not told yet. */
export interface OpenSession {
  readonly bench: BenchOpened;
  readonly state: BenchHeard['session'];
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
  readonly sessions: readonly OpenSession[];
  /** The link of the one that is looked at; null: none is. */
  readonly front: string | null;
  readonly opening: boolean;
  readonly problem: ShownProblem | null;
  readonly columns: readonly BenchColumn[];
  readonly reading: BenchReading | null;
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
  /** What was recorded, the newest first. */
  readonly recordings: readonly Recording[];
  /** The node whose recorded values are looked at, and of how many minutes; null: none. */
  readonly past: { readonly node: BenchNode; readonly minutes: number } | null;
  readonly history: BenchHistory | null;
  /** The node whose events are listened to; null: none. */
  readonly listening: BenchNode | null;
  /** The newest first. */
  readonly events: readonly HeardEvent[];
  /** So many came faster than they are shown, and were left out. */
  readonly eventsSkipped: number;
  readonly listeningSays: string;
}

const beginning: BenchState = {
  choices: null,
  sessions: [],
  front: null,
  opening: false,
  problem: null,
  columns: [],
  reading: null,
  described: null,
  typed: null,
  isWriting: false,
  written: null,
  matches: null,
  isMatching: false,
  recordings: [],
  past: null,
  history: null,
  listening: null,
  events: [],
  eventsSkipped: 0,
  listeningSays: '',
};
/** Older events go. */
export const mostEvents = 200;

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
    'look back': props<{ node: BenchNode; minutes: number }>(),
    'history shown': props<{ history: BenchHistory }>(),
    'look back no more': emptyProps(),
    listen: props<{ node: BenchNode }>(),
    'events heard': props<{ heard: BenchEvents }>(),
    'listen no more': emptyProps(),
    /** How a session stands. */
    turned: props<{ linkId: string; state: NonNullable<OpenSession['state']> }>(),
    /** A bench is not there any more: its server was away, or the page was. */
    gone: props<{ linkId: string; says: string }>(),
    /** A bench in its place, on the same link. */
    reopened: props<{ bench: BenchOpened }>(),
    /** Reads the open columns anew. */
    'browse again': emptyProps(),
    /** No session is looked at; those over which something is watched go on. */
    'look away': emptyProps(),
    'close sessions': props<{ linkIds: readonly string[] }>(),
    'close all': emptyProps(),
  },
});

export const benchFeature = createFeature({
  name: 'bench',
  reducer: createReducer(
    beginning,
    on(benchActions.linksFound, (state, { choices }): BenchState => ({ ...state, choices })),
    on(benchActions.open, (state): BenchState => ({ ...aside(state), opening: true })),
    on(benchActions.opened, (state, { bench }): BenchState => ({
      ...state,
      opening: false,
      sessions: withSession(state.sessions, bench),
      front: bench.linkId,
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
    on(benchActions.turned, (state, { linkId, state: turned }): BenchState => ({
      ...state,
      sessions: state.sessions.map((one) => (one.bench.linkId === linkId ? { ...one, state: turned } : one)),
    })),
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
      eventsSkipped: 0,
      listeningSays: 'Beginning to listen …',
    })),
    on(benchActions.eventsHeard, (state, { heard: { events, skipped, says } }): BenchState => ({
      ...state,
      eventsSkipped: state.eventsSkipped + skipped,
      events: [...numbered(events, (state.events[0]?.number ?? 0) + 1).reverse(), ...state.events].slice(0, mostEvents),
      listeningSays: says ?? state.listeningSays,
    })),
    on(benchActions.listenNoMore, (state): BenchState => ({ ...state, listening: null, events: [] })),
    on(benchActions.gone, (state, { linkId, says }): BenchState => ({
      ...state,
      sessions: state.sessions.map((one) =>
        one.bench.linkId === linkId
          ? { ...one, state: { isLost: true, at: one.state?.isLost ? one.state.at : new Date().toISOString(), says } }
          : one,
      ),
    })),
    on(benchActions.reopened, (state, { bench }): BenchState => ({
      ...state,
      sessions: withSession(state.sessions, bench),
      problem: null,
    })),
    on(benchActions.lookAway, (state): BenchState => aside(state)),
    on(benchActions.closeSessions, (state, { linkIds }): BenchState => ({
      ...state,
      sessions: state.sessions.filter(({ bench }) => !linkIds.includes(bench.linkId)),
      front: state.front !== null && linkIds.includes(state.front) ? null : state.front,
    })),
    on(benchActions.closeAll, (): BenchState => beginning),
  ),
  extraSelectors: ({ selectSessions, selectFront }) => {
    const selectFrontSession = createSelector(
      selectSessions,
      selectFront,
      (sessions, front) => sessions.find(({ bench }) => bench.linkId === front) ?? null,
    );
    return {
      selectFrontSession,
      selectBench: createSelector(selectFrontSession, (session) => session?.bench ?? null),
      selectBenches: createSelector(selectSessions, (sessions) => sessions.map(({ bench }) => bench)),
    };
  },
});

/** What is looked at is put away; sessions and recordings stay. */
const aside = ({ sessions, recordings }: BenchState): BenchState => ({ ...beginning, sessions, recordings });

/** One session a link: a newer one takes the place of the one before. */
const withSession = (sessions: readonly OpenSession[], bench: BenchOpened): OpenSession[] => {
  const known = sessions.find((one) => one.bench.linkId === bench.linkId);
  if (!known) return [...sessions, { bench, state: null }];
  return sessions.map((one) => (one === known ? { ...one, bench } : one));
};

const numbered = (events: readonly BenchEvent[], from: number): HeardEvent[] =>
  events.map((event, index) => ({ ...event, number: from + index }));
