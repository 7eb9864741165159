import { createActionGroup, createFeature, createReducer, createSelector, on, props } from '@ngrx/store';
import type { DeviceReaders } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** Who can read the device that is looked at. */
export interface ReadersState {
  readonly readers: View<DeviceReaders>;
}
const beginning: ReadersState = { readers: noView };

export const readersActions = createActionGroup({
  source: 'Readers of a device',
  events: {
    show: props<{ deviceId: string }>(),
    shown: props<{ readers: DeviceReaders }>(),
    'not shown': props<{ problem: ShownProblem }>(),
  },
});

export const readersFeature = createFeature({
  name: 'readers',
  reducer: createReducer(
    beginning,
    // Those of another device are none of this one’s.
    on(readersActions.show, (): ReadersState => ({ readers: asked(noView) })),
    on(readersActions.shown, (_, { readers }): ReadersState => ({ readers: shown(readers) })),
    on(readersActions.notShown, ({ readers }, { problem }): ReadersState => ({ readers: notShown(readers, problem) })),
  ),
  extraSelectors: ({ selectReaders }) => ({
    selectShown: createSelector(selectReaders, ({ shown: readers }) => readers),
  }),
});
