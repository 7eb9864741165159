import type { ItemOrigin, ValueForm } from '@loyal-hinge/core/field';
import { inBlock } from './address-block.js';

/** As devices listen here: below 1024 only the machine’s owner may. */
export const devicePort = 5020;

/** A field device that is really started, or a port that is silent in its place. */
export interface StandInDevice {
  readonly machineId: string;
  readonly address: string;
  readonly port: number;
  /** It answers as this unit. */
  readonly unit: number;
  /** It takes no more connections than these. */
  readonly mostConnections?: number;
  /** Nothing gets through to it. */
  readonly isSilent?: boolean;
  /** Its registers, by the places where they begin. */
  readonly registers: readonly StandInRegister[];
}

export interface StandInRegister {
  readonly place: number;
  readonly form: ValueForm;
  readonly mean: number;
  /** 0: the sensor is stuck. */
  readonly swing: number;
}

/** What a server reads of a device for an item, be it right or wrong. */
export type Polled = Pick<ItemOrigin, 'deviceId' | 'port' | 'unit'> & {
  readonly address: string;
  readonly place: number;
  readonly form: ValueForm;
};

const form = (type: ValueForm['type'], differs: Partial<ValueForm> = {}): ValueForm => ({
  type,
  order: 'high-first',
  scale: 1,
  offset: 0,
  bits: null,
  ...differs,
});
const float = form('float32');
const tenth = form('int16', { scale: 0.1 });
const thousandth = form('uint16', { scale: 0.001 });

const device = (
  machineId: string,
  address: string,
  registers: readonly StandInRegister[],
  differs: Partial<StandInDevice> = {},
): StandInDevice => ({ machineId, address: inBlock(address), port: devicePort, unit: 1, registers, ...differs });

/** Registers beside an item’s own: other measurements of the same device. */
const around = (place: number, mean: number): readonly StandInRegister[] =>
  [-2, -1, 1, 2].map((by) => ({ place: place + by, form: tenth, mean: mean * (1 + by / 10), swing: mean / 100 }));

export const standInDevices: readonly StandInDevice[] = [
  device('batch-weigher', '10.71', [
    { place: 100, form: float, mean: 812, swing: 20 },
    { place: 102, form: float, mean: 455, swing: 12 },
    { place: 104, form: form('uint16'), mean: 3, swing: 2 },
  ]),
  device('lehr-drive', '30.71', [
    { place: 10, form: tenth, mean: 148, swing: 3 },
    ...around(10, 148),
    { place: 20, form: thousandth, mean: 4.2, swing: 0.2 },
  ]),
  device('water-meter', '20.71', [
    { place: 30, form: float, mean: 71.5, swing: 2 },
    { place: 32, form: float, mean: 24.6, swing: 0.6 },
  ]),
  device('burner-panel', '20.72', [{ place: 0, form: tenth, mean: 63, swing: 4 }], { unit: 3 }),
  device('cullet-scale', '10.72', [{ place: 0, form: float, mean: 604, swing: 15 }], { mostConnections: 1 }),
  device('stack-probe', '10.73', [], { isSilent: true }),
  device('bath-level', '20.74', [
    { place: 4, form: tenth, mean: 61.7, swing: 0 },
    { place: 5, form: tenth, mean: 33, swing: 1 },
  ]),
];

export const fieldServerId = 'field-data-server';

interface Sketch {
  /** Absent: the server of field data. */
  readonly serverId?: string;
  readonly path: string;
  readonly machineId: string;
  /** As the device’s papers have it. */
  readonly address: string;
  readonly form: ValueForm;
  /** By the plant. */
  readonly unit?: number;
  /** Where and how the server reads it, where that is not right. */
  readonly reads?: { readonly place?: number; readonly form?: ValueForm };
}

const sketches: readonly Sketch[] = [
  { path: 'Weigher/Sand', machineId: 'batch-weigher', address: '40101', form: float },
  { path: 'Weigher/Soda ash', machineId: 'batch-weigher', address: '40103', form: float },
  // Whoever set the server up counted from 0 what the papers count from 1.
  { path: 'Lehr drive/Speed', machineId: 'lehr-drive', address: '40011', form: tenth, reads: { place: 11 } },
  {
    path: 'Water/Flow',
    machineId: 'water-meter',
    address: '40031',
    form: float,
    reads: { form: { ...float, order: 'low-first' } },
  },
  // The panel answers as unit 3.
  { path: 'Burner/Air', machineId: 'burner-panel', address: '40001', form: tenth },
  { path: 'Cullet/Weight', machineId: 'cullet-scale', address: '40001', form: float },
  { path: 'Stack/Draught', machineId: 'stack-probe', address: '40001', form: tenth },
  { path: 'Bath/Level', machineId: 'bath-level', address: '40005', form: tenth },
  // A classic server reads the same drive, and reads it right.
  {
    serverId: 'lehr-data-server',
    path: 'Lehr.Belt.Speed',
    machineId: 'lehr-drive',
    address: '40021',
    form: thousandth,
  },
];

const placeIn = (address: string): number => Number(address.slice(1)) - 1;
const deviceOf = (machineId: string): StandInDevice => {
  const found = standInDevices.find((one) => one.machineId === machineId);
  if (!found) throw new Error(`no device ${machineId}`);
  return found;
};

/** What servers read of whom. */
const polledItems: readonly (Polled & { readonly serverId: string; readonly path: string })[] = sketches.map(
  ({ serverId = fieldServerId, path, machineId, address, form: stated, unit = 1, reads = {} }) => ({
    serverId,
    path,
    deviceId: machineId,
    address: deviceOf(machineId).address,
    port: devicePort,
    unit,
    place: reads.place ?? placeIn(address),
    form: reads.form ?? stated,
  }),
);

/** The items that a server reads of devices. */
export const polledBy = (serverId: string) => polledItems.filter((item) => item.serverId === serverId);

/** Where items come from, as the engineer of the plant has it from the devices’ papers. */
export const standInOrigins: readonly {
  readonly serverId: string;
  readonly path: string;
  readonly origin: ItemOrigin;
}[] = sketches.map(({ serverId = fieldServerId, path, machineId, address, form: stated, unit = 1 }) => ({
  serverId,
  path,
  origin: {
    deviceId: machineId,
    port: devicePort,
    unit,
    table: 'holding',
    address,
    convention: 'from-1-with-digit',
    form: stated,
    within: null,
  },
}));
