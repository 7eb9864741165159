import { lookup } from 'node:dns/promises';
import { connect } from 'node:net';
import type { Socket } from 'node:net';
import {
  exceptionWords,
  fieldValue,
  modbusPort,
  modbusTables,
  mostPlacesSearched,
  mostUnit,
  placesInTable,
  tableShapes,
  valueOrders,
  valueTypes,
  wordsOf,
} from '@loyal-hinge/core/field';
import type { ModbusTable, ValueForm } from '@loyal-hinge/core/field';
import { DeviceLine, readPlaces, sayAsked } from '@loyal-hinge/field';
import type { PlacesRead } from '@loyal-hinge/field';
import { CannotRun, messageOf } from '../cannot-run.js';
import type { Command } from '../command.js';
import { oneOf, readOptions, wholeNumber } from '../options.js';

const usage = `hinge field read --host NAME [--port 502] --unit N --table TABLE --from N --count N [--type TYPE [--order ORDER]]
    [--at-once N] [--pause MS] [--timeout SECONDS] [--json]
  Reads a run of places of a device that speaks Modbus over TCP, and never writes. TABLE is ${modbusTables.join(', ')}; places
  are counted from 0, as on the wire: 40001 in a device’s papers is “--table holding --from 0”. TYPE: ${valueTypes.join(', ')};
  ORDER: ${valueOrders.join(', ')}. At most ${mostPlacesSearched} places at a time, one request after
  another, with a pause between (50 ms).
  Exit code 0 when all was read, 3 when not, 2 when it could not run.`;

const kinds = {
  host: 'text',
  port: 'text',
  unit: 'text',
  table: 'text',
  from: 'text',
  count: 'text',
  type: 'text',
  order: 'text',
  'at-once': 'text',
  pause: 'text',
  timeout: 'text',
  json: 'flag',
} as const;

const [usualPauseMs, usualTimeoutSeconds] = [50, 5];
const longestDay = 86_400_000;

export const read: Command = {
  usage,
  async run(args, out) {
    const { options, rest } = readOptions(args, kinds, usage);
    if (rest.length > 0) throw new CannotRun(`“${rest.join(' ')}” is one word too many.\n\n${usage}`);
    if (options.host === null) throw new CannotRun(`Say which device: --host NAME.\n\n${usage}`);
    const port = wholeNumber(options.port, 'port', { most: 65_535, usual: modbusPort });
    const table = oneOf(options.table, 'table', modbusTables);
    const first = wholeNumber(options.from, 'from', { least: 0, most: placesInTable - 1 });
    const count = wholeNumber(options.count, 'count', { most: Math.min(mostPlacesSearched, placesInTable - first) });
    const form = formOf(options.type, options.order, table);
    const timeoutMs = wholeNumber(options.timeout, 'timeout', { most: 600, usual: usualTimeoutSeconds }) * 1000;
    const wish = {
      unit: wholeNumber(options.unit, 'unit', { least: 0, most: mostUnit }),
      table,
      first,
      count,
      atOnce: wholeNumber(options['at-once'], 'at-once', { most: placesInTable, usual: tableShapes[table].mostAtOnce }),
      pauseMs: wholeNumber(options.pause, 'pause', { least: 0, most: longestDay, usual: usualPauseMs }),
    };
    const line = new DeviceLine(await opened(options.host, port, timeoutMs), timeoutMs);
    const told = await readPlaces(line, wish, new AbortController().signal).finally(() => line.close());
    const values = form ? valuesIn(told.places, first, form) : null;
    const whole = told.stopped === null && told.refused.length === 0;
    if (options.json) out.write(`${JSON.stringify(asJson(told, wish, values))}\n`);
    else for (const text of asLines(told, wish, values)) out.write(`${text}\n`);
    return whole ? 0 : 3;
  },
};

interface FoundValue {
  readonly at: number;
  /** null: its places could not be read, or say no such value. */
  readonly value: string | number | boolean | null;
}

function valuesIn(places: PlacesRead['places'], first: number, form: ValueForm): readonly FoundValue[] {
  const width = wordsOf(form);
  const values: FoundValue[] = [];
  for (let index = 0; index + width <= places.length; index += width) {
    const words = places.slice(index, index + width);
    const value = words.every((word) => word !== null) ? fieldValue(words, form) : null;
    // JSON has no whole numbers of 64 bits: those that would lose digits are text.
    const plain =
      typeof value === 'bigint' ? (Number.isSafeInteger(Number(value)) ? Number(value) : String(value)) : value;
    values.push({ at: first + index, value: typeof plain === 'number' && !Number.isFinite(plain) ? null : plain });
  }
  return values;
}

type Wish = { readonly unit: number; readonly table: ModbusTable; readonly first: number; readonly count: number };

const asJson = (told: PlacesRead, { unit, table, first, count }: Wish, values: readonly FoundValue[] | null) => ({
  status: told.stopped ? 'stopped' : told.refused.length > 0 ? 'refused' : 'read',
  unit,
  table,
  from: first,
  count,
  places: told.places,
  ...(values ? { values } : {}),
  refused: told.refused.map(({ first: from, count: of, code }) => ({ from, count: of, code, ...exceptionWords(code) })),
  stopped: told.stopped ? { outcome: told.stopped.outcome, says: sayAsked(told.stopped) } : null,
  requests: told.requests,
  slowestMs: told.slowestMs,
});

function asLines(told: PlacesRead, { table, first }: Wish, values: readonly FoundValue[] | null): readonly string[] {
  const lines = values
    ? values.map(({ at, value }) => `${String(at).padStart(6)}  ${value ?? 'not read'}`)
    : told.places.map((word, index) => {
        const shown = word === null ? 'not read' : `0x${word.toString(16).padStart(4, '0')}  ${word}`;
        return `${String(first + index).padStart(6)}  ${tableShapes[table].holds === 'bits' ? (word ?? 'not read') : shown}`;
      });
  const refused = told.refused.map(({ first: from, count, code }) => {
    const { name, means } = exceptionWords(code);
    return `${from}${count > 1 ? ` to ${from + count - 1}` : ''}: ${name}. ${means}`;
  });
  return [...lines, ...refused, ...(told.stopped ? [sayAsked(told.stopped)] : [])];
}

async function opened(host: string, port: number, timeoutMs: number): Promise<Socket> {
  const { address } = await lookup(host).catch((error: unknown) => {
    throw new CannotRun(`${host} has no address: ${messageOf(error)}.`);
  });
  return new Promise((resolve, reject) => {
    const socket = connect({ host: address, port });
    const fail = (why: string): void => {
      socket.destroy();
      reject(new CannotRun(`${address} port ${port} ${why}`));
    };
    const timer = setTimeout(() => fail('does not answer: nothing is there, or a firewall drops it.'), timeoutMs);
    socket.once('error', (error: NodeJS.ErrnoException) => {
      clearTimeout(timer);
      fail(error.code === 'ECONNREFUSED' ? 'refuses: nothing listens there.' : `can’t be reached: ${error.message}.`);
    });
    socket.once('connect', () => {
      clearTimeout(timer);
      socket.removeAllListeners();
      resolve(socket);
    });
  });
}

function formOf(type: string | null, order: string | null, table: ModbusTable): ValueForm | null {
  if (type === null) {
    if (order !== null) throw new CannotRun(`An order belongs to a type: --type TYPE.\n\n${usage}`);
    return null;
  }
  const read = oneOf(type, 'type', valueTypes);
  if (tableShapes[table].holds === 'bits' && read !== 'bool')
    throw new CannotRun(`A ${tableShapes[table].one} is a bit: its type is bool.`);
  return {
    type: read,
    order: order === null ? 'high-first' : oneOf(order, 'order', valueOrders),
    scale: 1,
    offset: 0,
    bits: null,
  };
}
