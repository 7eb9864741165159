import { setTimeout as pause } from 'node:timers/promises';
import type { FieldSample } from '@loyal-hinge/core/field';
import type { RegisterSearchWish } from '@loyal-hinge/contract';
import { readPlaces, sayAsked } from '@loyal-hinge/field';
import type { PlacesLine, PlacesRead } from '@loyal-hinge/field';
import type { BenchSession } from '../../bench/sessions/bench-session.js';

const patienceMs = 5000;
/** A device that fails as often in a row is not asked again. */
const mostFailures = 3;

/** Both ends of what is sampled. */
export interface Sides {
  readonly session: BenchSession;
  readonly nodeId: string;
  readonly device: {
    readonly name: string;
    readonly pauseMs: number;
    /** @returns a connection that can be asked, or in words why there is none */
    dial(timeoutMs: number): Promise<PlacesLine | string>;
  };
}

/** What one round brought. @param taken rounds until now @param sample null: one of both sides gave nothing that can be compared */
export type TellRound = (taken: number, sample: FieldSample | null) => Promise<void>;

/**
 * Reads the value at the server and a range of the device at the same times, round after round.
 * @returns why it could not go on, in words; null: it was carried out
 */
export async function sampleSideBySide(
  wish: RegisterSearchWish,
  { session, nodeId, device }: Sides,
  tell: TellRound,
  signal: AbortSignal,
): Promise<string | null> {
  let line: PlacesLine | null = null;
  let failures = 0;
  let parts: readonly Part[] | null = null;
  try {
    for (let index = 0; index < wish.samples; index += 1) {
      const begun = performance.now();
      signal.throwIfAborted();
      if (!line?.isOpen) {
        const opened = await device.dial(patienceMs);
        line = typeof opened === 'string' ? null : opened;
        if (typeof opened === 'string' && (failures += 1) >= mostFailures) return opened;
      }
      const read = line && (await readAll(line, wish, parts ?? [wish], device.pauseMs, signal));
      // What the device does not have is not asked for again.
      if (read && !read.stopped) parts ??= partsOf(read.places, wish.first);
      const reading = await session.read(nodeId);
      failures = read?.stopped ? failures + 1 : read ? 0 : failures;
      if (read?.stopped && failures >= mostFailures) return sayAsked(read.stopped);
      if (read?.places.every((place) => place === null) && !read.stopped)
        return `${device.name} has none of these places: it refused all of them.`;
      const value = valueIn(reading);
      await tell(index + 1, read && !read.stopped && value !== null ? { value, places: read.places } : null);
      if (index + 1 < wish.samples)
        await pause(Math.max(0, wish.everyMs - (performance.now() - begun)), undefined, { signal });
    }
    return null;
  } finally {
    line?.close();
  }
}

/** All parts of the range, one after the other, put together. */
async function readAll(
  line: PlacesLine,
  wish: RegisterSearchWish,
  parts: readonly Part[],
  pauseMs: number,
  signal: AbortSignal,
): Promise<Pick<PlacesRead, 'places' | 'stopped'>> {
  const places = new Array<number | null>(wish.count).fill(null);
  for (const { first, count } of parts) {
    const read = await readPlaces(line, { ...wish, first, count, pauseMs }, signal);
    read.places.forEach((place, index) => (places[first - wish.first + index] = place));
    if (read.stopped) return { places, stopped: read.stopped };
  }
  return { places, stopped: null };
}

interface Part {
  readonly first: number;
  readonly count: number;
}

/** The runs of places that the device has. */
function partsOf(places: readonly (number | null)[], first: number): readonly Part[] {
  const parts: { first: number; count: number }[] = [];
  places.forEach((place, index) => {
    const last = parts.at(-1);
    if (place === null) return;
    if (last && last.first + last.count === first + index) last.count += 1;
    else parts.push({ first: first + index, count: 1 });
  });
  return parts;
}

function valueIn({
  code,
  number,
  value,
  dataType,
}: Awaited<ReturnType<BenchSession['read']>>): number | boolean | null {
  if (code.startsWith('Bad')) return null;
  if (number !== null) return number;
  return dataType !== null && /bool/i.test(dataType) ? value === 'true' : null;
}
