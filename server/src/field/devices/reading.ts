import { setTimeout as pause } from 'node:timers/promises';
import { exceptionWords, isAboutUnit } from '@loyal-hinge/core/field';
import type { Machine } from '@loyal-hinge/core';
import { usualDevicePauseMs } from '@loyal-hinge/contract';
import type { AnswerOf, BodyOf, DeviceReading, DeviceReadingWish } from '@loyal-hinge/contract';
import { DeviceLine, isAnswered, readPlaces, sayAsked } from '@loyal-hinge/field';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import { readSetting } from '../../database/settings.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { findMachine } from '../../plant/part.js';
import { isDeclared } from '../../probe/address-ranges.js';
import { dialTcp } from '../../probe/dial.js';
import type { MachineLocks } from '../../processes/machine-locks.js';

const [connectMs, answerMs, unitMs, patienceMs] = [3000, 3000, 1000, 10_000];

/** Reads devices by hand: one at a time with whoever else of ours is there, inside the declared ranges, and never writing. */
export class DeviceReadings {
  constructor(
    private readonly db: Database,
    private readonly locks: Pick<MachineLocks, 'take'>,
  ) {}

  read(deviceId: string, wish: DeviceReadingWish, by: string, signal: AbortSignal): Promise<DeviceReading> {
    return this.at(
      deviceId,
      wish.port,
      by,
      { action: 'device read', details: wish },
      signal,
      async (dial, name, pauseMs) => {
        const line = await dial(answerMs);
        const { places, refused, stopped, slowestMs } = await readPlaces(line, { ...wish, pauseMs }, signal).finally(
          () => line.close(),
        );
        const count = places.filter((place) => place !== null).length;
        const [first] = refused;
        const says = stopped
          ? sayAsked(stopped)
          : first
            ? `${name} has ${count} of ${wish.count} places. ${exceptionWords(first.code).means}`
            : `${name} gave ${count === 1 ? 'one place' : `all ${count} places`}.`;
        return { places: [...places], says, slowestMs };
      },
    );
  }

  /** Each unit is asked for one register; whoever answers at all, be it with an exception, is there. */
  units(deviceId: string, wish: BodyOf<'askUnits'>, by: string, signal: AbortSignal): Promise<AnswerOf<'askUnits'>> {
    return this.at(
      deviceId,
      wish.port,
      by,
      { action: 'device units asked', details: wish },
      signal,
      async (dial, name, pauseMs) => {
        const answering: number[] = [];
        let line: DeviceLine | null = null;
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
        const says =
          answering.length === 0
            ? `None of these ${asked} units of ${name} answers.`
            : `${answering.length === 1 ? 'Unit' : 'Units'} ${answering.join(', ')} of ${name} ${answering.length === 1 ? 'answers' : 'answer'}.`;
        return { answering, asked, says };
      },
    );
  }

  private async at<Told>(
    deviceId: string,
    port: number,
    by: string,
    { action, details }: { readonly action: string; readonly details: object },
    signal: AbortSignal,
    use: (dial: (timeoutMs: number) => Promise<DeviceLine>, name: string, pauseMs: number) => Promise<Told>,
  ): Promise<Told> {
    const [device, ranges, pauseMs] = await Promise.all([
      findMachine(this.db, deviceId),
      readSetting(this.db, 'declaredRanges'),
      readSetting(this.db, 'devicePauseMs'),
    ]);
    if (!device) throw notFound('machine', deviceId);
    const address = addressOf(device, Array.isArray(ranges) ? ranges.map(String) : []);
    await this.db.transaction((tx) =>
      appendAudit(tx, { actor: by, action, subject: deviceId, details: { ...details } }),
    );
    const dial = async (timeoutMs: number): Promise<DeviceLine> => {
      const { outcome, socket } = await dialTcp(address, port, null, connectMs, signal);
      if (!socket)
        throw conflict(
          `${device.name}, ${address} port ${port}: ${outcome}.`,
          'Look whether the device is on, and what its port is.',
        );
      return new DeviceLine(socket, timeoutMs);
    };
    return this.locks.take(
      device.id,
      { holder: `the reading of ${device.name} by ${by}`, byPerson: true, patienceMs, signal },
      () => use(dial, device.name, typeof pauseMs === 'number' ? pauseMs : usualDevicePauseMs),
    );
  }
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
