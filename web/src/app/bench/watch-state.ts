import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { mostWatched } from '@loyal-hinge/contract';
import type { BenchMatches, BenchNode, BenchWatching } from '@loyal-hinge/contract';
import type { HeardOfBench, HeardValue } from './heard';

/** A node that is watched over the session of a link. */
export interface Watched {
  readonly key: string;
  readonly linkId: string;
  readonly linkName: string;
  readonly node: BenchNode;
  readonly unit: string;
}

/** What is known of a watched node now. */
export interface LiveValue {
  readonly newest: HeardValue | null;
  /** The last one whose status was not bad: it stays where others come. */
  readonly lastGood: HeardValue | null;
  /** How often the server samples and publishes it; null: that is not told yet. */
  readonly intervals: BenchWatching | null;
}

/** What came of all that is watched, counted. */
export interface Tally {
  readonly changes: number;
  /** Not sent on, because this page took in too slowly: only the newest came. */
  readonly thinned: number;
  /** Told by the server as lost in its own queues: at least so many times. */
  readonly overflown: number;
  /** Sent, and not here. */
  readonly missing: number;
}

export interface WatchState {
  readonly watched: readonly Watched[];
  readonly live: Readonly<Record<string, LiveValue>>;
  /** How often watched values are asked for, in milliseconds. */
  readonly everyMs: number;
  /** The watched node whose values are drawn large. */
  readonly trend: string | null;
  readonly tally: Tally;
}

/** The same node may be watched over several links. */
export const watchKey = (linkId: string, nodeId: string): string => `${linkId}\n${nodeId}`;

/** Over whose session something is watched. */
export interface Over {
  readonly linkId: string;
  readonly linkName: string;
}

const noTally: Tally = { changes: 0, thinned: 0, overflown: 0, missing: 0 };
const beginning: WatchState = { watched: [], live: {}, everyMs: 500, trend: null, tally: noTally };
const unknown: LiveValue = { newest: null, lastGood: null, intervals: null };

export const watchActions = createActionGroup({
  source: 'Watch',
  events: {
    watch: props<{ over: Over; node: BenchNode; unit: string }>(),
    /** Nodes that were found by a pattern: they are called by their paths, since many have the same name. */
    'watch all': props<{ over: Over; nodes: BenchMatches['nodes'] }>(),
    unwatch: props<{ key: string }>(),
    'unwatch all': emptyProps(),
    /** Sessions that are closed: nothing is watched over them any more. */
    'unwatch over': props<{ linkIds: readonly string[] }>(),
    'watch every': props<{ everyMs: number }>(),
    'show trend': props<{ key: string | null }>(),
    heard: props<{ linkId: string; heard: HeardOfBench }>(),
  },
});

export const watchFeature = createFeature({
  name: 'watch',
  reducer: createReducer(
    beginning,
    on(watchActions.watch, (state, { over, node, unit }): WatchState => withWatched(state, [itemOf(over, node, unit)])),
    on(watchActions.watchAll, (state, { over, nodes }): WatchState =>
      withWatched(
        state,
        nodes.map(({ path, ...node }) => itemOf(over, { ...node, displayName: path }, '')),
      ),
    ),
    on(watchActions.unwatch, (state, { key }): WatchState => without(state, (item) => item.key === key)),
    on(watchActions.unwatchAll, (state): WatchState => ({ ...beginning, everyMs: state.everyMs })),
    on(watchActions.unwatchOver, (state, { linkIds }): WatchState =>
      without(state, ({ linkId }) => linkIds.includes(linkId)),
    ),
    on(watchActions.watchEvery, (state, { everyMs }): WatchState => ({ ...state, everyMs })),
    on(watchActions.showTrend, (state, { key }): WatchState => ({ ...state, trend: key })),
    on(watchActions.heard, (state, { linkId, heard }): WatchState => {
      const live = { ...state.live };
      const update = (nodeId: string, change: (known: LiveValue) => LiveValue): void => {
        const key = watchKey(linkId, nodeId);
        const known = live[key];
        // What was on its way when it was let go is not wanted any more.
        if (known) live[key] = change(known);
      };
      for (const { nodeId, ...intervals } of heard.watching) update(nodeId, (known) => ({ ...known, intervals }));
      for (const { nodeId, value } of heard.values)
        update(nodeId, (known) => ({
          ...known,
          newest: value,
          lastGood: value.code.startsWith('Bad') ? known.lastGood : value,
        }));
      return { ...state, live, tally: added(state.tally, heard.tally) };
    }),
  ),
  extraSelectors: ({ selectWatched, selectTrend }) => ({
    selectDrawn: createSelector(
      selectWatched,
      selectTrend,
      (watched, trend) => watched.find(({ key }) => key === trend) ?? null,
    ),
    /** Which nodes are watched, by link. */
    selectWatchedByLink: createSelector(selectWatched, (watched) => {
      const byLink = new Map<string, string[]>();
      for (const { linkId, node } of watched) byLink.set(linkId, [...(byLink.get(linkId) ?? []), node.nodeId]);
      return byLink;
    }),
  }),
});

const itemOf = ({ linkId, linkName }: Over, node: BenchNode, unit: string): Watched => ({
  key: watchKey(linkId, node.nodeId),
  linkId,
  linkName,
  node,
  unit,
});

function withWatched(state: WatchState, items: readonly Watched[]): WatchState {
  const known = new Set(state.watched.map(({ key }) => key));
  const fresh = items.filter(({ key }) => !known.has(key)).slice(0, mostWatched - known.size);
  if (fresh.length === 0) return state;
  return {
    ...state,
    watched: [...state.watched, ...fresh],
    live: { ...state.live, ...Object.fromEntries(fresh.map(({ key }) => [key, unknown])) },
  };
}

function without(state: WatchState, isGone: (item: Watched) => boolean): WatchState {
  const watched = state.watched.filter((item) => !isGone(item));
  if (watched.length === state.watched.length) return state;
  const live = Object.fromEntries(watched.map(({ key }) => [key, state.live[key] ?? unknown]));
  const trend = state.trend !== null && state.trend in live ? state.trend : null;
  return { ...state, watched, live, trend, tally: watched.length === 0 ? noTally : state.tally };
}

const added = (one: Tally, other: Tally): Tally => ({
  changes: one.changes + other.changes,
  thinned: one.thinned + other.thinned,
  overflown: one.overflown + other.overflown,
  missing: one.missing + other.missing,
});
