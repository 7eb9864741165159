import { byNumber } from '@loyal-hinge/core';
import { createEntityAdapter } from '@ngrx/entity';
import type { EntityState } from '@ngrx/entity';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { Change, Remedy, StepId } from '@loyal-hinge/core';
import type {
  CertificateView,
  CheckDetail,
  HingeEvent,
  LinkBoard,
  LinkDetail,
  LinkFilter,
  LinkOrder,
  LinkRow,
  WriteProof,
} from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

/** Which rows the board shows, and in which order. */
export interface BoardWish {
  readonly find: string;
  readonly state: LinkRow['state'] | '';
  /** Absent or empty: links of any kind. */
  readonly kind?: LinkRow['kind'] | '';
  readonly by: LinkOrder;
}

/** The board as far as it was read: rows stand in the store by their ids, and here by their places. */
export interface Board {
  readonly wish: BoardWish;
  readonly fitting: number;
  readonly kinds: LinkBoard['kinds'];
  readonly states: LinkBoard['states'];
  readonly underWay: number;
  readonly places: Readonly<Record<number, string>>;
}

export interface LinksState extends EntityState<LinkRow> {
  /** Whether the board was read for what is wished. */
  readonly loaded: boolean;
  readonly board: Board;
  readonly problem: ShownProblem | null;
  readonly live: 'waiting' | 'live' | 'broken';
  /** The step that is being tried just now, by link. */
  readonly working: Readonly<Record<string, StepId>>;
  /** Checks that ended lately: what is heard of them afterwards comes too late. */
  readonly ended: readonly string[];
  /** The link that is looked at, also before it is read. */
  readonly looked: string | null;
  readonly detail: LinkDetail | null;
  readonly detailProblem: ShownProblem | null;
  readonly checks: Readonly<Record<string, CheckDetail>>;
  readonly mending: Mending;
}

/** A work order that was proposed instead of a change, and what it says. */
export interface WaitingOrder {
  readonly id: string;
  readonly says: string;
}

/** A remedy on its way: looked at, confirmed, carried out. */
export interface Mending {
  readonly remedy: Remedy | null;
  readonly certificate: CertificateView | null;
  readonly busy: boolean;
  readonly problem: ShownProblem | null;
  /** The work order in which it waits for another person; null: there is none. */
  readonly order: WaitingOrder | null;
}

const noBoard: Board = {
  wish: { find: '', state: '', by: 'place' },
  fitting: 0,
  kinds: [],
  states: { Parted: 0, Strained: 0, Untried: 0, Sound: 0 },
  underWay: 0,
  places: {},
};

const noMending: Mending = { remedy: null, certificate: null, busy: false, problem: null, order: null };

export const rowAdapter = createEntityAdapter<LinkRow>();

const beginning: LinksState = rowAdapter.getInitialState({
  loaded: false,
  board: noBoard,
  problem: null,
  live: 'waiting' as const,
  working: {},
  ended: [],
  looked: null,
  detail: null,
  detailProblem: null,
  checks: {},
  mending: noMending,
});

export const linkActions = createActionGroup({
  source: 'Links',
  events: {
    look: props<{ wish: BoardWish }>(),
    /** Rows are in sight; those that are not there are read. */
    reach: props<{ from: number; to: number }>(),
    'look away': emptyProps(),
    /** What is in sight is read anew. */
    refresh: emptyProps(),
    loaded: props<{ wish: BoardWish; board: LinkBoard }>(),
    'load row': props<{ linkId: string }>(),
    'row loaded': props<{ row: LinkRow }>(),
    failed: props<{ problem: ShownProblem }>(),
    open: props<{ linkId: string }>(),
    opened: props<{ detail: LinkDetail }>(),
    'open failed': props<{ problem: ShownProblem }>(),
    leave: emptyProps(),
    check: props<{ linkIds: readonly string[] }>(),
    'prove writes': props<{ linkId: string; proof: WriteProof }>(),
    'check fitting': props<Pick<BoardWish, 'find' | 'state' | 'kind'>>(),
    'cancel all': emptyProps(),
    cancel: props<{ checkId: string }>(),
    'read check': props<{ checkId: string }>(),
    'check read': props<{ check: CheckDetail }>(),
    'live changed': props<{ live: LinksState['live'] }>(),
    heard: props<{ event: HingeEvent }>(),
    'consider remedy': props<{ remedy: Remedy }>(),
    'certificate shown': props<{ certificate: CertificateView }>(),
    mend: props<{ linkId: string; change: Change; password?: string }>(),
    /** It was carried out at once, and the link is checked again. */
    mended: props<{ says: string }>(),
    /** It waits for another person, as a work order. */
    'mending proposed': props<{ order: WaitingOrder }>(),
    'mend failed': props<{ problem: ShownProblem }>(),
    'put remedy aside': emptyProps(),
  },
});

export const linksFeature = createFeature({
  name: 'links',
  reducer: createReducer(
    beginning,
    on(linkActions.look, (state, { wish }): LinksState =>
      isSameWish(wish, state.board.wish)
        ? state
        : { ...state, loaded: false, board: { ...state.board, wish, places: {} } },
    ),
    on(linkActions.loaded, (state, { wish, board }): LinksState =>
      // What was asked for before the wish changed comes too late.
      isSameWish(wish, state.board.wish) ? withRows(state, board) : state,
    ),
    on(linkActions.rowLoaded, (state, { row }): LinksState => rowAdapter.upsertOne(row, state)),
    on(linkActions.failed, (state, { problem }): LinksState => ({ ...state, loaded: true, problem })),
    on(linkActions.open, (state, { linkId }): LinksState =>
      state.detail?.link.id === linkId
        ? { ...state, looked: linkId }
        : { ...state, looked: linkId, detail: null, detailProblem: null, checks: {}, mending: noMending },
    ),
    on(linkActions.opened, (state, { detail }): LinksState => ({ ...state, detail, detailProblem: null })),
    on(linkActions.openFailed, (state, { problem }): LinksState => ({ ...state, detailProblem: problem })),
    on(linkActions.leave, (state): LinksState => ({ ...state, looked: null, mending: noMending })),
    on(linkActions.checkRead, (state, { check }): LinksState => ({
      ...state,
      checks: { ...state.checks, [check.check.id]: check },
    })),
    on(linkActions.liveChanged, (state, { live }): LinksState => ({ ...state, live })),
    on(linkActions.heard, (state, { event }): LinksState => hear(state, event)),
    on(linkActions.considerRemedy, (state, { remedy }): LinksState => ({
      ...state,
      mending: { ...noMending, remedy },
    })),
    on(linkActions.certificateShown, (state, { certificate }): LinksState => ({
      ...state,
      mending: { ...state.mending, certificate },
    })),
    on(linkActions.mend, (state): LinksState => ({
      ...state,
      mending: { ...state.mending, busy: true, problem: null },
    })),
    on(linkActions.mended, (state): LinksState => ({ ...state, mending: noMending })),
    on(linkActions.mendingProposed, (state, { order }): LinksState => ({
      ...state,
      mending: { ...noMending, order },
    })),
    on(linkActions.mendFailed, (state, { problem }): LinksState => ({
      ...state,
      mending: { ...state.mending, busy: false, problem },
    })),
    on(linkActions.putRemedyAside, (state): LinksState => ({ ...state, mending: noMending })),
  ),
  extraSelectors: ({ selectLinksState, selectBoard, selectEntities, selectDetail, selectWorking, selectLoaded }) => {
    return {
      /** The rows that are there, by their places. */
      selectPlaces: createSelector(selectBoard, selectEntities, rowsByPlace),
      selectHeadline: createSelector(selectBoard, selectLoaded, ({ states }, loaded) => boardHeadline(states, loaded)),
      selectDetailWorking: createSelector(selectDetail, selectWorking, (detail, working) =>
        detail ? (working[detail.link.id] ?? null) : null,
      ),
      selectDetailRow: createSelector(selectLinksState, (state) =>
        state.detail ? (state.entities[state.detail.link.id] ?? null) : null,
      ),
    };
  },
});

const endedKept = 1_000;

function hear(state: LinksState, event: HingeEvent): LinksState {
  // The answer to a wish for a check may come after the event that tells of its end.
  if ('checkId' in event && event.kind !== 'check-ended' && state.ended.includes(event.checkId)) return state;
  switch (event.kind) {
    case 'check-asked':
      return rowAdapter.updateOne({ id: event.linkId, changes: { checkId: event.checkId, waitsFor: null } }, state);
    case 'check-waits':
      return rowAdapter.updateOne(
        { id: event.linkId, changes: { checkId: event.checkId, waitsFor: event.waitsFor } },
        state,
      );
    case 'check-step':
      return rowAdapter.updateOne(
        { id: event.linkId, changes: { checkId: event.checkId, waitsFor: null, verdicts: event.verdicts } },
        { ...state, working: { ...state.working, [event.linkId]: event.step } },
      );
    case 'check-ended': {
      const { [event.linkId]: _over, ...working } = state.working;
      const after = { ...state, working, ended: [event.checkId, ...state.ended].slice(0, endedKept) };
      const isNewest = state.entities[event.linkId]?.checkId === event.checkId;
      return isNewest
        ? rowAdapter.updateOne({ id: event.linkId, changes: { checkId: null, waitsFor: null } }, after)
        : after;
    }
    case 'import-progress':
    case 'checks-changed':
    case 'plant-changed':
    case 'trust-changed':
    case 'entry-changed':
    case 'dcom-changed':
    case 'passage-changed':
    case 'outposts-changed':
    case 'accounts-changed':
    case 'rights-changed':
    case 'reports-changed':
    case 'casebook-changed':
    case 'rounds-changed':
    case 'order-changed':
    case 'proposals-changed':
    case 'discovery-changed':
      return state;
  }
}

/** A filter as the contract has it: what is not filtered by is left out. */
export const fittingOf = ({ find, state, kind }: Pick<BoardWish, 'find' | 'state' | 'kind'>): LinkFilter => ({
  ...(find === '' ? {} : { find }),
  ...(state === '' ? {} : { state }),
  ...(kind ? { kind } : {}),
});

export const isSameWish = (one: BoardWish, other: BoardWish): boolean =>
  one.find === other.find &&
  one.state === other.state &&
  (one.kind ?? '') === (other.kind ?? '') &&
  one.by === other.by;

/** What was read takes the place of what stood there; places behind the last row are gone. */
function withRows(state: LinksState, { from, rows, fitting, kinds, states, underWay }: LinkBoard): LinksState {
  const places: Record<number, string> = {};
  for (const [place, id] of Object.entries(state.board.places)) if (Number(place) < fitting) places[Number(place)] = id;
  rows.forEach(({ id }, index) => (places[from + index] = id));
  const board = { ...state.board, fitting, kinds, states, underWay, places };
  return rowAdapter.upsertMany(rows, { ...state, board, loaded: true, problem: null });
}

function rowsByPlace({ places }: Board, entities: LinksState['entities']): Readonly<Record<number, LinkRow>> {
  const rows: Record<number, LinkRow> = {};
  for (const [place, id] of Object.entries(places)) {
    const row = entities[id];
    if (row) rows[Number(place)] = row;
  }
  return rows;
}

/** The finding in one sentence: how many are parted, and how the others stand. */
export function boardHeadline(states: LinkBoard['states'], loaded: boolean): string {
  const all = Object.values(states).reduce((sum, links) => sum + links, 0);
  if (all === 0) return loaded ? 'There is no link yet.' : 'Links';
  const { Parted: parted, Strained, Untried, Sound } = states;
  const rest = [
    [Strained, 'strained'],
    [Untried, 'untried'],
    [Sound, 'sound'],
  ] as const;
  const others = rest.filter(([many]) => many > 0).map(([many, word]) => `${many} ${word}`);
  if (parted === 0) return Sound === all ? `All ${all} links are sound.` : `No link is parted: ${others.join(', ')}.`;
  const first = byNumber(parted, `# of ${all} links is parted`, `# of ${all} links are parted`);
  return `${first}; ${others.join(', ') || 'none is sound'}.`;
}
