/** What an exception of a device says, and what it means to somebody who reads (Application Protocol 1.1b3 §7). */
export interface ExceptionWords {
  /** As the standard calls it. */
  readonly name: string;
  readonly means: string;
  readonly toDo: string;
}

const known: Readonly<Record<number, ExceptionWords>> = {
  1: {
    name: 'Illegal function',
    means: 'The device does not let this table be read at all.',
    toDo: 'Look in the device’s papers in which table the value is: many have it as an input register and not as a holding register, or the other way round.',
  },
  2: {
    name: 'Illegal data address',
    means: 'The device has no register at this address, or the run of registers ends beyond its last.',
    toDo: 'Compare the address with the device’s papers, and whether these count from 0 or from 1.',
  },
  3: {
    name: 'Illegal data value',
    means: 'The device takes the request itself to be wrong: most likely more registers at once than it gives.',
    toDo: 'Read fewer registers at once.',
  },
  4: {
    name: 'Server device failure',
    means: 'The device met a fault of its own while it answered.',
    toDo: 'Look at the device itself: its display, its log, its supply.',
  },
  5: {
    name: 'Acknowledge',
    means: 'The device accepted the request and needs long for it. Reading never does.',
    toDo: 'Look at the device itself: reading is answered at once by a device that is well.',
  },
  6: {
    name: 'Server device busy',
    means: 'The device is busy with another request.',
    toDo: 'Find out who else asks it, and how often; let them ask less often.',
  },
  8: {
    name: 'Memory parity error',
    means: 'The device’s memory is damaged where the value is.',
    toDo: 'Have the device serviced.',
  },
  10: {
    name: 'Gateway path unavailable',
    means: 'A gateway in front of the device has no way to this unit.',
    toDo: 'Compare the unit with the gateway’s configuration.',
  },
  11: {
    name: 'Gateway target device failed to respond',
    means: 'A gateway in front of the device asked this unit, and the unit did not answer.',
    toDo: 'Look whether the unit is switched on and has this number on the line behind the gateway.',
  },
};

export const exceptionWords = (code: number): ExceptionWords =>
  known[code] ?? {
    name: `Exception ${code}`,
    means: 'The device gives a reason that the standard does not know.',
    toDo: 'Look the number up in the device’s papers.',
  };

/** Tells that nobody has this unit, and not that the register is wrong. */
export const isAboutUnit = (code: number): boolean => code === 10 || code === 11;
