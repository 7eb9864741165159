import { setTimeout as pause } from 'node:timers/promises';
import { exceptionWords, isAboutUnit, sayUnits } from '@loyal-hinge/core/field';
import type { Machine } from '@loyal-hinge/core';
import type { AnswerOf, BodyOf, DeviceReading, DeviceReadingWish } from '@loyal-hinge/contract';
import { isAnswered, readPlaces, sayAsked } from '@loyal-hinge/field';
import type { PlacesLine } from '@loyal-hinge/field';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import { declaredRangesOf, devicePauseOf } from '../../database/settings.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { findMachine } from '../../plant/part.js';
import { isDeclared } from '../../probe/address-ranges.js';
import { reachDevice } from '../../probe/field/reach.js';
import type { FarReaders } from '../../probe/field/reach.js';
import type { MachineLocks } from '../../processes/machine-locks.js';

const [connectMs, answerMs, unitMs, patienceMs] = [3000, 3000, 1000, 10_000];

/** Reads devices by hand: one at a time with whoever else of ours is there, inside the declared ranges, and never writing. */
export class DeviceReadings {
  constructor(
    private readonly db: Database,
    private readonly locks: Pick<MachineLocks, 'take'>,
    private readonly far: FarReaders,
  ) {}

  read(deviceId: string, wish: DeviceReadingWish, by: string, signal: AbortSignal): Promise<DeviceReading> {
    const visit = { deviceId, wish, by, action: 'device read' };
    return this.visit(visit, signal, async ({ name, pauseMs, dial }) => {
      const line = await dial(answerMs);
      const { places, refused, stopped, slowestMs } = await readPlaces(line, { ...wish, pauseMs }, signal).finally(() =>
        line.close(),
      );
      const count = places.filter((place) => place !== null).length;
      const [first] = refused;
      const says = stopped
        ? sayAsked(stopped)
        : first
          ? `${name} has ${count} of ${wish.count} places. ${exceptionWords(first.code).means}`
          : `${name} gave ${count === 1 ? 'one place' : `all ${count} places`}.`;
      return { places: [...places], says, slowestMs };
    });
  }

  /** Each unit is asked for one register; whoever answers at all, be it with an exception, is there. */
  units(deviceId: string, wish: BodyOf<'askUnits'>, by: string, signal: AbortSignal): Promise<AnswerOf<'askUnits'>> {
    const visit = { deviceId, wish, by, action: 'device units asked' };
    return this.visit(visit, signal, async ({ name, pauseMs, dial }) => {
      const answering: number[] = [];
      let line: PlacesLine | null = null;
      try {
        for (let unit = wish.from; unit <= wish.to; unit += 1) {
          if (unit > wish.from) await pause(pauseMs, undefined, { signal });
          if (!line?.isOpen) line = await dial(unitMs);
          const asked = await line.read({ unit, table: 'holding', first: 0, count: 1 }, signal);
          if (isAnswered(asked) && !(asked.outcome === 'exception' && isAboutUnit(asked.code))) answering.push(unit);
        }
      } finally {
        line?.close();
      }
      const asked = wish.to - wish.from + 1;
      return { answering, asked, says: sayUnits(name, answering, asked) };
    });
  }

  /** Writes into the trail who asks for what, waits until nobody else of ours is at the device, and lets it be used. */
  private async visit<Told>(
    { deviceId, wish, by, action }: Visit,
    signal: AbortSignal,
    use: (device: Reachable) => Promise<Told>,
  ): Promise<Told> {
    const [device, ranges, pauseMs] = await Promise.all([
      findMachine(this.db, deviceId),
      declaredRangesOf(this.db),
      devicePauseOf(this.db),
    ]);
    if (!device) throw notFound('machine', deviceId);
    const { name } = device;
    const address = addressOf(device, ranges);
    await this.db.transaction((tx) => appendAudit(tx, { actor: by, action, subject: deviceId, details: { ...wish } }));
    const dial = async (timeoutMs: number): Promise<PlacesLine> => {
      const to = { name, address, port: wish.port, connectMs, answerMs: timeoutMs };
      const line = await reachDevice(this.far, wish.reader, to, signal);
      if (typeof line === 'string')
        throw conflict(line, 'Look whether the device is on, what its port is, and from where it can be reached.');
      return line;
    };
    const hold = { holder: `the reading of ${name} by ${by}`, byPerson: true, patienceMs, signal };
    return this.locks.take(device.id, hold, () => use({ name, pauseMs, dial }));
  }
}

/** What somebody wants of a device, as it stands in the trail. */
interface Visit {
  readonly deviceId: string;
  readonly wish: Pick<DeviceReadingWish, 'port' | 'reader'>;
  readonly by: string;
  readonly action: string;
}

interface Reachable {
  readonly name: string;
  readonly pauseMs: number;
  dial(timeoutMs: number): Promise<PlacesLine>;
}

function addressOf(device: Machine, ranges: readonly string[]): string {
  const [address] = device.addresses;
  if (address === undefined) throw invalid(`${device.name} has no address in the plant.`);
  if (!isDeclared(address, ranges))
    throw conflict(
      `${address} is outside the declared address ranges, and is not dialled.`,
      'Declare its range in the settings, if it may be.',
    );
  return address;
}
