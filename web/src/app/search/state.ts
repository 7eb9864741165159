import { createActionGroup, createFeature, createReducer, on, props } from '@ngrx/store';
import type { SearchHit } from '@loyal-hinge/contract';

export interface SearchState {
  /** The words that the hits are for. */
  readonly find: string;
  readonly hits: readonly SearchHit[];
  readonly isAway: boolean;
}

export const searchActions = createActionGroup({
  source: 'Search',
  events: {
    look: props<{ find: string }>(),
    found: props<{ find: string; hits: readonly SearchHit[] }>(),
    failed: props<{ find: string }>(),
  },
});

export const searchFeature = createFeature({
  name: 'search',
  reducer: createReducer<SearchState>(
    { find: '', hits: [], isAway: false },
    on(searchActions.found, (_, { find, hits }): SearchState => ({ find, hits, isAway: false })),
    on(searchActions.failed, (_, { find }): SearchState => ({ find, hits: [], isAway: true })),
  ),
});
