import { createEntityAdapter } from '@ngrx/entity';
import type { EntityState } from '@ngrx/entity';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { AuditEntry, AuditPage, AuditQuery, TrailReport } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

export interface TrailState extends EntityState<AuditEntry> {
  readonly query: AuditQuery;
  readonly loaded: boolean;
  /** Where the next page begins; null: there is none. */
  readonly next: number | null;
  readonly actors: readonly string[];
  readonly actions: readonly string[];
  readonly loading: boolean;
  readonly verifying: boolean;
  readonly report: TrailReport | null;
  readonly problem: ShownProblem | null;
}

const adapter = createEntityAdapter<AuditEntry>({
  selectId: ({ sequence }) => sequence,
  sortComparer: (one, other) => other.sequence - one.sequence,
});

const beginning: TrailState = adapter.getInitialState({
  query: {},
  loaded: false,
  next: null,
  actors: [],
  actions: [],
  loading: false,
  verifying: false,
  report: null,
  problem: null,
});

export const trailActions = createActionGroup({
  source: 'Trail',
  events: {
    show: props<{ query: AuditQuery }>(),
    'show older': emptyProps(),
    loaded: props<{ page: AuditPage; query: AuditQuery }>(),
    verify: emptyProps(),
    verified: props<{ report: TrailReport }>(),
    failed: props<{ problem: ShownProblem }>(),
  },
});

export const trailFeature = createFeature({
  name: 'trail',
  reducer: createReducer(
    beginning,
    on(trailActions.show, (state, { query }): TrailState => ({ ...state, query, loading: true, problem: null })),
    on(trailActions.showOlder, (state): TrailState => ({ ...state, loading: true, problem: null })),
    on(trailActions.loaded, (state, { page, query }): TrailState => {
      const { entries, next, actors, actions } = page;
      const after = { ...state, next, actors, actions, loaded: true, loading: false };
      return query.before === undefined ? adapter.setAll(entries, after) : adapter.addMany(entries, after);
    }),
    on(trailActions.verify, (state): TrailState => ({ ...state, verifying: true, report: null, problem: null })),
    on(trailActions.verified, (state, { report }): TrailState => ({ ...state, verifying: false, report })),
    on(trailActions.failed, (state, { problem }): TrailState => ({
      ...state,
      loading: false,
      verifying: false,
      problem,
    })),
  ),
  extraSelectors: ({ selectTrailState }) => ({
    selectRows: createSelector(selectTrailState, adapter.getSelectors().selectAll),
  }),
});
