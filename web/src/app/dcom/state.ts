import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { DcomDifferences, DcomMachine, DcomView, MachineFiles } from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** Which machine is looked at, and which of its exports; null: the newest. */
export interface DcomLook {
  readonly machineId: string;
  readonly exportId: number | null;
}

export interface DcomState {
  readonly machines: View<readonly DcomMachine[]>;
  readonly machine: View<DcomView>;
  readonly compared: View<DcomDifferences>;
  /** null: nobody looks at a machine. */
  readonly look: DcomLook | null;
  readonly commands: Commands<'import'>;
}

const beginning: DcomState = { machines: noView, machine: noView, compared: noView, look: null, commands: noCommands };

export const dcomActions = createActionGroup({
  source: 'DCOM',
  events: {
    'show machines': emptyProps(),
    'machines shown': props<{ machines: readonly DcomMachine[] }>(),
    look: props<{ look: DcomLook }>(),
    'machine shown': props<{ view: DcomView }>(),
    leave: emptyProps(),
    compare: props<{ machineId: string; before: number; after: number }>(),
    compared: props<{ compared: DcomDifferences }>(),
    'compare no more': emptyProps(),
    import: props<{ machineId: string; files: MachineFiles['files'] }>(),
    imported: props<{ view: DcomView; says: string }>(),
    failed: props<{ problem: ShownProblem }>(),
    'not shown': props<{ view: 'machines' | 'machine' | 'compared'; problem: ShownProblem }>(),
  },
});

export const dcomFeature = createFeature({
  name: 'dcom',
  reducer: createReducer(
    beginning,
    on(dcomActions.showMachines, (state): DcomState => ({ ...state, machines: asked(state.machines) })),
    on(dcomActions.machinesShown, (state, { machines }): DcomState => ({ ...state, machines: shown(machines) })),
    on(dcomActions.look, (state, { look }): DcomState => ({
      ...state,
      look,
      // Of another machine, nothing that is shown is true.
      machine: asked(state.machine.shown?.machineId === look.machineId ? state.machine : noView),
      compared: state.look?.machineId === look.machineId ? state.compared : noView,
    })),
    on(dcomActions.machineShown, (state, { view }): DcomState => ({ ...state, machine: shown(view) })),
    on(dcomActions.leave, (state): DcomState => ({ ...state, look: null, compared: noView })),
    on(dcomActions.compare, (state): DcomState => ({ ...state, compared: asked(noView) })),
    on(dcomActions.compared, (state, { compared }): DcomState => ({ ...state, compared: shown(compared) })),
    on(dcomActions.compareNoMore, (state): DcomState => ({ ...state, compared: noView })),
    on(dcomActions.import, (state): DcomState => ({ ...state, commands: begun(state.commands, 'import') })),
    on(dcomActions.imported, (state, { view }): DcomState => ({
      ...state,
      commands: ended(state.commands, 'import'),
      machine: state.look?.machineId === view.machineId ? shown(view) : state.machine,
    })),
    on(dcomActions.failed, (state, { problem }): DcomState => ({
      ...state,
      commands: ended(state.commands, 'import', problem),
    })),
    on(dcomActions.notShown, (state, { view, problem }): DcomState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
  ),
  extraSelectors: ({ selectMachines, selectMachine, selectCompared, selectCommands }) => ({
    selectKnownMachines: createSelector(selectMachines, ({ shown: machines }) => machines),
    selectShownMachine: createSelector(selectMachine, ({ shown: view }) => view),
    selectShownDifferences: createSelector(selectCompared, ({ shown: compared }) => compared),
    selectImports: createSelector(selectCommands, ({ running }) => running.length > 0),
    selectProblem: createSelector(
      selectMachines,
      selectMachine,
      selectCompared,
      selectCommands,
      (machines, machine, compared, { problem }) => problem ?? machines.problem ?? machine.problem ?? compared.problem,
    ),
  }),
});
