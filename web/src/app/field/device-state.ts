import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  AnswerOf,
  DeviceReading,
  DeviceReadingWish,
  DeviceView,
  OriginsCsv,
  OriginsTaken,
  PlantChoices,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

export type DeviceCommand = 'read' | 'units' | 'import';
type Devices = AnswerOf<'devices'>['devices'];
export interface UnitsAsked {
  readonly asked: number;
  readonly of: number;
  readonly answering: readonly number[];
}
export interface DeviceState {
  readonly devices: View<Devices>;
  readonly device: View<DeviceView>;
  /** What was read by hand last, and from which place on. */
  readonly reading: (DeviceReading & { readonly first: number }) | null;
  readonly said: string | null;
  /** How far the units have been asked, from 1 on, and which of them have answered. */
  readonly units: UnitsAsked | null;
  /** Servers whose origins can be brought. */
  readonly servers: View<PlantChoices>;
  /** What came of the last import. */
  readonly taken: OriginsTaken | null;
  readonly commands: Commands<DeviceCommand>;
}
const beginning: DeviceState = {
  devices: noView,
  device: noView,
  reading: null,
  said: null,
  units: null,
  servers: noView,
  taken: null,
  commands: noCommands,
};

const noUnits: UnitsAsked = { asked: 0, of: 0, answering: [] };

export const deviceActions = createActionGroup({
  source: 'Devices',
  events: {
    'show all': emptyProps(),
    'all shown': props<{ devices: Devices }>(),
    show: props<{ deviceId: string }>(),
    shown: props<{ device: DeviceView }>(),
    'not shown': props<{ view: 'devices' | 'device' | 'servers'; problem: ShownProblem }>(),
    leave: emptyProps(),
    read: props<{ deviceId: string; wish: DeviceReadingWish }>(),
    'was read': props<{ first: number; reading: DeviceReading }>(),
    /** The units from 1 to `last`, some at a time. */
    'ask units': props<{ deviceId: string; port: number; last: number; by: Pick<DeviceReadingWish, 'reader'> }>(),
    'units told': props<{ answer: AnswerOf<'askUnits'> }>(),
    'stop units': emptyProps(),
    'look for servers': props<{ find: string }>(),
    'servers found': props<{ servers: PlantChoices }>(),
    'take origins': props<{ serverId: string; wish: OriginsCsv }>(),
    'save origins': props<{ serverId: string }>(),
    'origins taken': props<{ taken: OriginsTaken }>(),
    failed: props<{ command: DeviceCommand; problem: ShownProblem }>(),
  },
});

export const deviceFeature = createFeature({
  name: 'devices',
  reducer: createReducer(
    beginning,
    on(deviceActions.showAll, (state): DeviceState => ({ ...state, devices: asked(state.devices) })),
    on(deviceActions.allShown, (state, { devices }): DeviceState => ({ ...state, devices: shown(devices) })),
    on(deviceActions.show, (state): DeviceState => ({ ...state, device: asked(state.device) })),
    on(deviceActions.shown, (state, { device }): DeviceState => ({ ...state, device: shown(device) })),
    on(deviceActions.notShown, (state, { view, problem }): DeviceState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
    on(deviceActions.leave, (state): DeviceState => ({ ...beginning, devices: state.devices })),
    on(deviceActions.read, (state): DeviceState => ({
      ...state,
      said: null,
      units: null,
      reading: null,
      commands: begun(state.commands, 'read'),
    })),
    on(deviceActions.wasRead, (state, { first, reading }): DeviceState => ({
      ...state,
      reading: { ...reading, first },
      said: reading.says,
      commands: ended(state.commands, 'read'),
    })),
    on(deviceActions.askUnits, (state, { last }): DeviceState => ({
      ...state,
      said: null,
      reading: null,
      units: { asked: 0, of: last, answering: [] },
      commands: begun(state.commands, 'units'),
    })),
    on(deviceActions.unitsTold, (state, { answer }): DeviceState => {
      const { asked: before, of, answering } = state.units ?? noUnits;
      const units = { asked: before + answer.asked, of, answering: [...answering, ...answer.answering] };
      return { ...state, units, commands: units.asked < of ? state.commands : ended(state.commands, 'units') };
    }),
    on(deviceActions.stopUnits, (state): DeviceState => ({ ...state, commands: ended(state.commands, 'units') })),
    on(deviceActions.lookForServers, (state): DeviceState => ({ ...state, servers: asked(state.servers) })),
    on(deviceActions.serversFound, (state, { servers }): DeviceState => ({ ...state, servers: shown(servers) })),
    on(deviceActions.takeOrigins, (state): DeviceState => ({
      ...state,
      taken: null,
      commands: begun(state.commands, 'import'),
    })),
    on(deviceActions.originsTaken, (state, { taken }): DeviceState => ({
      ...state,
      taken,
      commands: ended(state.commands, 'import'),
    })),
    on(deviceActions.failed, (state, { command, problem }): DeviceState => ({
      ...state,
      commands: ended(state.commands, command, problem),
    })),
  ),
  extraSelectors: ({ selectDevices, selectDevice, selectServers: selectServerView, selectCommands }) => ({
    selectFoundServers: createSelector(selectServerView, ({ shown: servers }) => servers),
    selectAll: createSelector(selectDevices, ({ shown: devices }) => devices),
    selectShown: createSelector(selectDevice, ({ shown: device }) => device),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectProblem: createSelector(
      selectDevices,
      selectDevice,
      selectCommands,
      (devices, device, { problem }) => problem ?? device.problem ?? devices.problem,
    ),
  }),
});
