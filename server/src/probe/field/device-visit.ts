import { setTimeout as pause } from 'node:timers/promises';
import type { FactOf, Machine } from '@loyal-hinge/core';
import { compareOrigin, heldWhileMoving, placeOf, placesInTable, wordsOf } from '@loyal-hinge/core/field';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import { DeviceLine } from '@loyal-hinge/field';
import type { Asked } from '@loyal-hinge/field';
import { isDeclared } from '../address-ranges.js';
import { dialTcp } from '../dial.js';
import { resolveHost } from '../resolve.js';
import type { Walk } from '../walk.js';
import type { KnownOrigin } from './means.js';

export type ServedValue = number | boolean | string | null;
/** Reads items at the server, in the order of their paths; null: there is no value. */
export type ReadServed = (paths: readonly string[]) => Promise<readonly ServedValue[]>;

/** So many places beside an item’s own are looked at on each side: where a server reads another register, it is mostly near. */
const beside = 3;
const rounds = 5;
/** So many before it is said that server and device differ: what a server gives at first may be older than our first look. */
const mostRounds = 12;
const betweenRoundsMs = 500;
/** Whether a server holds a value for longer than this is left to what it says of the value’s age. */
const longestLookMs = 20_000;
const betweenLooksMs = 1000;
const [illegalAddress, illegalValue] = [2, 3];

/** One visit of a walk to a device, for all items that come from one of its ports. */
export class DeviceVisit {
  private line: DeviceLine | null = null;
  private address = '';

  constructor(
    private readonly walk: Walk,
    private readonly device: Machine,
    private readonly origins: readonly KnownOrigin[],
    private readonly served: ReadServed,
  ) {}

  async make(): Promise<void> {
    try {
      const addresses = await this.name();
      if (addresses.length > 0 && (await this.reach(addresses))) await this.sample();
    } finally {
      this.line?.close();
    }
  }

  private get port(): number {
    return this.origins[0]?.origin.port ?? 0;
  }

  /** A name that means nothing is no hindrance where the plant has the address. */
  private async name(): Promise<readonly string[]> {
    this.walk.begin('device-name', `the name of ${this.device.name}`);
    const { id: deviceId, name, hostNames, addresses: known } = this.device;
    const note = (host: string | null, addresses: readonly string[], failure: string | null): readonly string[] => {
      this.walk.log.note(
        { kind: 'field-name', deviceId, device: name, host, addresses, failure },
        known.length > 0 ? 'reported' : 'tried',
      );
      return addresses;
    };
    if (known.length > 0) return note(null, known, null);
    const [host] = hostNames;
    if (host === undefined) return note(null, [], 'the plant has neither.');
    const { nameServer, limits } = this.walk.means;
    const { addresses, failure } = await resolveHost(host, nameServer, limits.resolveMs, this.walk.signal);
    return note(host, addresses, failure);
  }

  private async reach(addresses: readonly string[]): Promise<boolean> {
    this.walk.begin('device-reach', `the connection to ${this.device.name}`);
    for (const address of addresses) {
      const { outcome, ms, from } = await this.dial(address);
      this.walk.signal.throwIfAborted();
      // What is open is told alone: that another address is not does no harm.
      if (outcome === 'open' || address === addresses.at(-1)) {
        this.walk.log.note({
          kind: 'field-reach',
          deviceId: this.device.id,
          device: this.device.name,
          address,
          port: this.port,
          from,
          outcome,
          ms,
          stoppedBy: outcome === 'open' ? [] : (this.origins[0]?.stoppedBy ?? []),
        });
        this.address = address;
        return outcome === 'open';
      }
    }
    return false;
  }

  /** Dials as the server’s machine does where its address can be had here, and otherwise as we are. */
  private async dial(
    address: string,
  ): Promise<{ outcome: FactOf<'field-reach'>['outcome']; ms: number; from: string | null }> {
    const { means, subject, signal } = this.walk;
    if (!isDeclared(address, means.declaredRanges)) return { outcome: 'withheld', ms: 0, from: null };
    const own = subject.serverMachine.addresses.find((one) => one.includes(':') === address.includes(':')) ?? null;
    const from = means.dialFromClientAddress ? own : null;
    let dialled = await dialTcp(address, this.port, from, means.limits.connectMs, signal);
    const isBound = dialled.outcome !== 'not bound';
    if (!isBound) dialled = await dialTcp(address, this.port, null, means.limits.connectMs, signal);
    const { outcome, ms, socket } = dialled;
    if (socket) this.line = new DeviceLine(socket, means.limits.helloMs);
    if (outcome === 'cancelled') throw signal.reason;
    return { outcome: outcome === 'not bound' ? 'unreachable' : outcome, ms, from: isBound ? from : null };
  }

  /** Reads each item’s registers and its value at the server some times, one after the other. */
  private async sample(): Promise<void> {
    const { walk } = this;
    walk.begin('device-answers', `the registers of ${this.device.name}`);
    const runs = this.origins.map((known): Sampled => ({ known, run: windowOf(known.origin), samples: [] }));
    for (let round = 0; round < rounds && (round === 0 || runs.some(({ run }) => run)); round += 1) {
      if (round > 0) await pause(betweenRoundsMs, undefined, { signal: walk.signal });
      await this.sampleOnce(runs, round === 0);
    }
    await this.lookOn(runs);
    await this.outlast(runs);
    for (const { known, run, samples } of runs) {
      if (!run || samples.length === 0) continue;
      walk.log.note({ kind: 'field-compared', path: known.path, first: run.first, samples });
      this.noteUnmoved(known, run.first, samples);
    }
  }

  private async sampleOnce(runs: readonly Sampled[], isFirst: boolean): Promise<void> {
    const { walk } = this;
    const read: { at: string; words: readonly (number | null)[] }[] = [];
    for (const entry of runs) {
      let words: readonly (number | null)[] = [];
      if (entry.run !== null) {
        const { run, asked } = isFirst
          ? await this.first(entry.known, entry.run)
          : { run: entry.run, asked: await this.ask(entry.known.origin, entry.run) };
        if (asked.outcome === 'values') words = asked.values;
        // What was refused at first is not asked for again.
        entry.run = isFirst && asked.outcome !== 'values' ? null : run;
        walk.signal.throwIfAborted();
      }
      read.push({ at: new Date().toISOString(), words });
    }
    if (isFirst) walk.begin('origin-value', 'comparing values');
    const values = await this.served(this.origins.map(({ path }) => path));
    runs.forEach(({ samples }, index) => {
      const { at, words } = read[index] ?? { at: '', words: [] };
      if (words.length > 0) samples.push({ at, value: values[index] ?? null, words });
    });
  }

  /**
   * Where server and device differ and nothing explains it, it is looked at for a while longer: in five rounds a server that
   * lags differs once in a hundred times.
   */
  private async lookOn(runs: readonly Sampled[]): Promise<void> {
    const isOpen = ({ run, known: { origin }, samples }: Sampled): boolean => {
      if (run === null || samples.length >= mostRounds) return false;
      const { form, within } = origin;
      const compared = compareOrigin({ first: run.first, place: placeOf(origin), form, within, samples });
      return compared.outcome === 'differs' && compared.explained === null;
    };
    while (runs.some(isOpen)) {
      await pause(betweenRoundsMs, undefined, { signal: this.walk.signal });
      await this.sampleOnce(runs, false);
    }
  }

  /** Where the server holds a value while its register moves, it is looked at until the value goes on, or has been held for too long. */
  private async outlast(runs: readonly Sampled[]): Promise<void> {
    const { signal, subject } = this.walk;
    const { staleAfterMs } = subject.link;
    if (staleAfterMs > longestLookMs) return;
    const isOpen = ({ run, known: { origin }, samples }: Sampled): boolean => {
      if (run === null) return false;
      const { isHeld, forMs } = heldWhileMoving({ ...run, place: placeOf(origin), form: origin.form, samples });
      return isHeld && forMs <= staleAfterMs;
    };
    const end = Date.now() + longestLookMs;
    while (runs.some(isOpen) && Date.now() < end) {
      await pause(betweenLooksMs, undefined, { signal });
      await this.sampleOnce(runs, false);
    }
  }

  /** The first reading of an item: its window, or its own registers where the device has none beside them. What came of it is noted. */
  private async first({ origin, path }: KnownOrigin, window: Run): Promise<{ run: Run; asked: Asked }> {
    let run = window;
    let asked = await this.ask(origin, run);
    if (asked.outcome === 'exception' && (asked.code === illegalAddress || asked.code === illegalValue)) {
      run = { first: placeOf(origin), count: wordsOf(origin.form) };
      asked = await this.ask(origin, run);
      if (asked.outcome === 'values') {
        run = await this.extended(origin, run, window);
        asked = await this.ask(origin, run);
      }
    }
    if (asked.outcome !== 'cancelled')
      this.walk.log.note({
        kind: 'field-answer',
        deviceId: this.device.id,
        device: this.device.name,
        unit: origin.unit,
        table: origin.table,
        ...run,
        path,
        outcome: asked.outcome,
        code: asked.outcome === 'exception' ? asked.code : null,
        received: 'received' in asked ? asked.received : 0,
        detail: 'why' in asked ? asked.why : null,
        ms: asked.ms,
      });
    return { run, asked };
  }

  /** A device that ends within the window has some of the places beside the item’s own: as many as follow without a gap. */
  private async extended(origin: ItemOrigin, own: Run, window: Run): Promise<Run> {
    let { first, count } = own;
    const has = async (place: number): Promise<boolean> =>
      (await this.ask(origin, { first: place, count: 1 })).outcome === 'values';
    while (first > window.first && (await has(first - 1))) [first, count] = [first - 1, count + 1];
    while (first + count < window.first + window.count && (await has(first + count))) count += 1;
    return { first, count };
  }

  private async ask({ unit, table }: ItemOrigin, run: Run): Promise<Asked> {
    const { signal } = this.walk;
    // It has time for others between our requests.
    await pause(this.walk.means.devicePauseMs, undefined, { signal });
    // A device may end the connection after each answer; what was not answered is not asked again.
    if (!this.line?.isOpen) {
      const { outcome, ms } = await this.dial(this.address);
      if (outcome !== 'open') return { outcome: outcome === 'reset' ? 'reset' : 'closed', received: 0, ms };
    }
    return this.line ? this.line.read({ unit, table, ...run }, signal) : { outcome: 'cancelled', ms: 0 };
  }

  /** How long a register has said the same, from check to check. */
  private noteUnmoved({ path, origin, before }: KnownOrigin, first: number, samples: readonly Sample[]): void {
    const from = placeOf(origin) - first;
    const own = samples.map(({ words }) => words.slice(from, from + wordsOf(origin.form)).join(' '));
    const [said] = own;
    const [sample] = samples;
    if (said === undefined || !sample || own.some((one) => one !== said)) return;
    const isSame = before !== null && before.words.join(' ') === said;
    this.walk.log.note(
      { kind: 'field-unmoved', path, since: isSame ? before.since : sample.at, checks: isSame ? before.checks + 1 : 1 },
      'reckoned',
    );
  }
}

/** An item with the run of places that is read for it, and what came. */
interface Sampled {
  readonly known: KnownOrigin;
  /** null: the device does not give it. */
  run: Run | null;
  readonly samples: Sample[];
}
type Sample = FactOf<'field-compared'>['samples'][number];
interface Run {
  readonly first: number;
  readonly count: number;
}

function windowOf(origin: ItemOrigin): Run | null {
  const place = placeOf(origin);
  const first = Math.max(0, place - beside);
  const end = Math.min(placesInTable, place + wordsOf(origin.form) + beside);
  return { first, count: end - first };
}
