import { createEntityAdapter } from '@ngrx/entity';
import type { EntityState } from '@ngrx/entity';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { stepIds, stepPosition } from '@loyal-hinge/core';
import type { Change, Remedy, StepId } from '@loyal-hinge/core';
import type { CertificateView, CheckDetail, HingeEvent, LinkDetail, LinkRow } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

export interface LinksState extends EntityState<LinkRow> {
  readonly loaded: boolean;
  readonly problem: ShownProblem | null;
  readonly live: 'waiting' | 'live' | 'broken';
  /** The step that is being tried just now, by link. */
  readonly working: Readonly<Record<string, StepId>>;
  /** Checks that ended lately: what is heard of them afterwards comes too late. */
  readonly ended: readonly string[];
  readonly detail: LinkDetail | null;
  readonly detailProblem: ShownProblem | null;
  readonly checks: Readonly<Record<string, CheckDetail>>;
  readonly mending: Mending;
}

/** A remedy on its way: looked at, confirmed, carried out. */
export interface Mending {
  readonly remedy: Remedy | null;
  readonly certificate: CertificateView | null;
  readonly busy: boolean;
  readonly problem: ShownProblem | null;
  readonly says: string | null;
  /** The work order in which it waits for another person; null: it is done. */
  readonly orderId: string | null;
}

const noMending: Mending = { remedy: null, certificate: null, busy: false, problem: null, says: null, orderId: null };

export const rowAdapter = createEntityAdapter<LinkRow>();

const beginning: LinksState = rowAdapter.getInitialState({
  loaded: false,
  problem: null,
  live: 'waiting' as const,
  working: {},
  ended: [],
  detail: null,
  detailProblem: null,
  checks: {},
  mending: noMending,
});

export const linkActions = createActionGroup({
  source: 'Links',
  events: {
    load: emptyProps(),
    loaded: props<{ rows: LinkRow[] }>(),
    failed: props<{ problem: ShownProblem }>(),
    open: props<{ linkId: string }>(),
    opened: props<{ detail: LinkDetail }>(),
    'open failed': props<{ problem: ShownProblem }>(),
    leave: emptyProps(),
    check: props<{ linkIds: readonly string[] }>(),
    cancel: props<{ checkId: string }>(),
    'read check': props<{ checkId: string }>(),
    'check read': props<{ check: CheckDetail }>(),
    'live changed': props<{ live: LinksState['live'] }>(),
    heard: props<{ event: HingeEvent }>(),
    'consider remedy': props<{ remedy: Remedy }>(),
    'certificate shown': props<{ certificate: CertificateView }>(),
    mend: props<{ linkId: string; change: Change; password?: string }>(),
    mended: props<{ says: string; orderId: string | null }>(),
    'mend failed': props<{ problem: ShownProblem }>(),
    'put remedy aside': emptyProps(),
  },
});

export const linksFeature = createFeature({
  name: 'links',
  reducer: createReducer(
    beginning,
    on(linkActions.loaded, (state, { rows }): LinksState =>
      rowAdapter.setAll(rows, { ...state, loaded: true, problem: null }),
    ),
    on(linkActions.failed, (state, { problem }): LinksState => ({ ...state, loaded: true, problem })),
    on(linkActions.open, (state, { linkId }): LinksState =>
      state.detail?.link.id === linkId
        ? state
        : { ...state, detail: null, detailProblem: null, checks: {}, mending: noMending },
    ),
    on(linkActions.opened, (state, { detail }): LinksState => ({ ...state, detail, detailProblem: null })),
    on(linkActions.openFailed, (state, { problem }): LinksState => ({ ...state, detailProblem: problem })),
    on(linkActions.leave, (state): LinksState => ({ ...state, mending: noMending })),
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
    on(linkActions.mended, (state, { says, orderId }): LinksState => ({
      ...state,
      mending: { ...noMending, says, orderId },
    })),
    on(linkActions.mendFailed, (state, { problem }): LinksState => ({
      ...state,
      mending: { ...state.mending, busy: false, problem },
    })),
    on(linkActions.putRemedyAside, (state): LinksState => ({ ...state, mending: noMending })),
  ),
  extraSelectors: ({ selectLinksState, selectDetail, selectWorking, selectLoaded }) => {
    const { selectAll } = rowAdapter.getSelectors();
    const selectRows = createSelector(selectLinksState, selectAll);
    return {
      selectRows,
      selectHeadline: createSelector(selectRows, selectLoaded, boardHeadline),
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
    case 'plant-changed':
    case 'trust-changed':
    case 'order-changed':
    case 'proposals-changed':
    case 'discovery-changed':
      return state;
  }
}

const stateRank: Readonly<Record<LinkRow['state'], number>> = { Parted: 0, Strained: 1, Untried: 2, Sound: 3 };

/** What fails at the same place stands together, the worst first. */
export function compareByPlace(left: LinkRow, right: LinkRow): number {
  return (
    stateRank[left.state] - stateRank[right.state] ||
    placeOf(left) - placeOf(right) ||
    left.name.localeCompare(right.name)
  );
}

function placeOf(row: LinkRow): number {
  if (row.partedAt) return stepPosition(row.partedAt);
  const weak = row.verdicts.indexOf('weak');
  return weak < 0 ? stepIds.length : weak;
}

/** The finding in one sentence: how many are parted, and where most of them. */
export function boardHeadline(rows: readonly LinkRow[], loaded: boolean): string {
  if (!loaded) return 'Links';
  if (rows.length === 0) return 'There is no link yet.';
  const count = (state: LinkRow['state']): number => rows.filter((row) => row.state === state).length;
  const parted = count('Parted');
  const rest = [
    [count('Strained'), 'strained'],
    [count('Untried'), 'untried'],
    [count('Sound'), 'sound'],
  ] as const;
  const others = rest.filter(([many]) => many > 0).map(([many, word]) => `${many} ${word}`);
  if (parted === 0)
    return others.length === 1 && count('Sound') === rows.length
      ? `All ${rows.length} links are sound.`
      : `No link is parted: ${others.join(', ')}.`;
  return `${parted} of ${rows.length} links ${parted === 1 ? 'is' : 'are'} parted; ${others.join(', ') || 'none holds'}.`;
}
