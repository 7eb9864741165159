import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';
import type { FirstStep } from '@loyal-hinge/core';

export interface FirstStepsState {
  /** null: not asked yet. */
  readonly steps: readonly FirstStep[] | null;
}

export const firstStepsActions = createActionGroup({
  source: 'First steps',
  events: {
    load: emptyProps(),
    loaded: props<{ steps: readonly FirstStep[] }>(),
  },
});

export const firstStepsFeature = createFeature({
  name: 'firstSteps',
  reducer: createReducer<FirstStepsState>(
    { steps: null },
    on(firstStepsActions.loaded, (_, { steps }): FirstStepsState => ({ steps })),
  ),
});
