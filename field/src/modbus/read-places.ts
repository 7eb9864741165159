import { setTimeout as pause } from 'node:timers/promises';
import { tableShapes } from '@loyal-hinge/core/field';
import type { ModbusTable } from '@loyal-hinge/core/field';
import { isAnswered } from './line.js';
import type { Asked, PlacesLine } from './line.js';

/** A run of places of a device, and how it is asked for. */
export interface PlacesWish {
  readonly unit: number;
  readonly table: ModbusTable;
  readonly first: number;
  readonly count: number;
  /** How many are asked for at once; absent: as many as the protocol allows. */
  readonly atOnce?: number | undefined;
  /** Milliseconds from one request to the next. */
  readonly pauseMs: number;
}

export interface PlacesRead {
  /** Words, or bits as 0 and 1; null: the device has none there, or it was not come to. */
  readonly places: readonly (number | null)[];
  /** Exceptions with which the device refused parts. */
  readonly refused: readonly { readonly first: number; readonly count: number; readonly code: number }[];
  /** What ended the reading before all was asked for; null: nothing did. */
  readonly stopped: Asked | null;
  readonly requests: number;
  /** Milliseconds of the slowest answer. */
  readonly slowestMs: number;
}

/** No device is asked more often than this for one run, however its registers are scattered. */
const mostRequests = 400;
const [illegalAddress, illegalValue] = [2, 3];

/**
 * Reads a run in small parts, one after another. A part that the device refuses for its address or its length is halved,
 * so that what it has is found; whatever else goes wrong ends the reading.
 */
export async function readPlaces(
  line: Pick<PlacesLine, 'read'>,
  wish: PlacesWish,
  signal: AbortSignal,
): Promise<PlacesRead> {
  const places = new Array<number | null>(wish.count).fill(null);
  const refused: { first: number; count: number; code: number }[] = [];
  const atOnce = Math.min(wish.atOnce ?? Infinity, tableShapes[wish.table].mostAtOnce);
  const parts: { first: number; count: number }[] = [];
  for (let done = 0; done < wish.count; done += atOnce)
    parts.push({ first: wish.first + done, count: Math.min(atOnce, wish.count - done) });
  let [requests, slowestMs] = [0, 0];
  for (let part = parts.shift(); part && requests < mostRequests; part = parts.shift()) {
    if (requests > 0 && wish.pauseMs > 0) await pause(wish.pauseMs, undefined, { signal }).catch(() => undefined);
    const asked = await line.read({ unit: wish.unit, table: wish.table, ...part }, signal);
    requests += 1;
    slowestMs = Math.max(slowestMs, asked.ms);
    if (!isAnswered(asked)) return { places, refused, stopped: asked, requests, slowestMs };
    const { first, count } = part;
    if (asked.outcome === 'values')
      asked.values.forEach((value, index) => (places[first - wish.first + index] = value));
    else if (asked.outcome === 'exception' && count > 1 && [illegalAddress, illegalValue].includes(asked.code)) {
      const half = count >> 1;
      parts.unshift({ first, count: half }, { first: first + half, count: count - half });
    } else if (asked.outcome === 'exception') refused.push({ ...part, code: asked.code });
  }
  return { places, refused, stopped: null, requests, slowestMs };
}
