/** The four tables of a device that speaks Modbus (Application Protocol 1.1b3 §4.3): bits and words, each to be read alone or written, too. */
export const modbusTables = ['coil', 'discrete', 'input', 'holding'] as const;
export type ModbusTable = (typeof modbusTables)[number];

interface TableShape {
  /** Of the function that reads it (§6.1 to §6.4). */
  readonly readFunction: number;
  /** The digit that stands before its addresses in many papers of devices. */
  readonly digit: string;
  readonly holds: 'bits' | 'words';
  /** How many one request may ask for (§6.1 to §6.4). */
  readonly mostAtOnce: number;
  readonly one: string;
  readonly many: string;
}

export const tableShapes: Readonly<Record<ModbusTable, TableShape>> = {
  coil: { readFunction: 1, digit: '0', holds: 'bits', mostAtOnce: 2000, one: 'coil', many: 'coils' },
  discrete: {
    readFunction: 2,
    digit: '1',
    holds: 'bits',
    mostAtOnce: 2000,
    one: 'discrete input',
    many: 'discrete inputs',
  },
  input: {
    readFunction: 4,
    digit: '3',
    holds: 'words',
    mostAtOnce: 125,
    one: 'input register',
    many: 'input registers',
  },
  holding: {
    readFunction: 3,
    digit: '4',
    holds: 'words',
    mostAtOnce: 125,
    one: 'holding register',
    many: 'holding registers',
  },
};

/** A table has so many places: an address is a number of 16 bits. */
export const placesInTable = 65_536;
/** The port at which devices listen (Messaging on TCP/IP 1.0b §4.3.1). */
export const modbusPort = 502;
/** Units 0 and 255 mean the device itself where it stands alone at its address (Messaging on TCP/IP 1.0b §4.4.1.2). */
export const mostUnit = 255;

export const tableOfFunction = (code: number): ModbusTable | null =>
  modbusTables.find((table) => tableShapes[table].readFunction === code) ?? null;
