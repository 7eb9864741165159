import { randomUUID } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { tableShapes } from '@loyal-hinge/core/field';
import type { AddressConvention, FieldSample } from '@loyal-hinge/core/field';
import { isPlantFault } from '@loyal-hinge/core';
import type { Fact, LinkInPlant, Machine } from '@loyal-hinge/core';
import type { RegisterSearch, RegisterSearchWish } from '@loyal-hinge/contract';
import { DeviceLine, readPlaces, sayAsked } from '@loyal-hinge/field';
import type { PlacesRead } from '@loyal-hinge/field';
import { appendAudit } from '../../audit/trail.js';
import { refusal } from '../../bench/answers.js';
import type { BenchSession } from '../../bench/sessions/bench-session.js';
import { benchWalks } from '../../bench/sessions/bench-walks.js';
import type { Database } from '../../database/database.js';
import { assessmentOf, factsOfCheck } from '../../facts/store.js';
import type { Runs } from '../../heavy/jobs.js';
import { conflict, invalid, notFound, ProblemError } from '../../http/problems.js';
import { meansOfLink } from '../../means/means-of-link.js';
import { findMachine, subjectAround } from '../../plant/part.js';
import { isDeclared } from '../../probe/address-ranges.js';
import { dialTcp } from '../../probe/dial.js';
import { memoryLog } from '../../probe/memory-log.js';
import type { MachineLocks } from '../../processes/machine-locks.js';
import type { SecretStore } from '../../secrets/sealing.js';
import { statedOrigins } from '../origins/stated.js';
import type { FieldJobs } from './jobs.js';

const mostRunning = 4;
const mostKept = 50;
/** So often is looked at what was seen, while it goes on. */
const lookEvery = 10;
const patienceMs = 15_000;
/** A device that fails as often in a row is not asked again. */
const mostFailures = 3;

interface Running {
  view: RegisterSearch;
  readonly samples: FieldSample[];
  readonly end: AbortController;
  readonly convention: AddressConvention;
}

/** Searches for registers: the value at the server and a range of the device, sampled side by side over some minutes. Only reads. */
export class RegisterSearches {
  private readonly known = new Map<string, Running>();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly locks: Pick<MachineLocks, 'take'>,
    private readonly heavy: Runs<FieldJobs>,
  ) {}

  async begin(linkId: string, wish: RegisterSearchWish, by: string): Promise<RegisterSearch> {
    const [subject, device] = await Promise.all([subjectAround(this.db, linkId), findMachine(this.db, wish.deviceId)]);
    if (isPlantFault(subject)) throw notFound('link', linkId);
    if (!device)
      throw invalid('The search can’t begin.', [
        { place: 'deviceId', says: `There is no machine “${wish.deviceId}”.` },
      ]);
    if (device.addresses.length === 0)
      throw invalid('The search can’t begin.', [
        { place: 'deviceId', says: `${device.name} has no address in the plant.` },
      ]);
    const running = [...this.known.values()].filter(({ view }) => view.state === 'running');
    if (running.some(({ view }) => view.wish.deviceId === wish.deviceId))
      throw conflict(`A search at ${device.name} is under way already.`, 'Wait for it, or end it.');
    if (running.length >= mostRunning) throw conflict('Too many searches are under way.', 'End one first.');
    const [stated] = await statedOrigins(this.db, subject.server.id, [wish.path]);
    const one: Running = {
      view: {
        id: randomUUID(),
        linkId,
        wish,
        device: device.name,
        state: 'running',
        says: 'Waiting for the server and the device.',
        taken: 0,
        values: [],
        changesSeen: 0,
        found: [],
        by,
        begunAt: new Date().toISOString(),
      },
      samples: [],
      end: new AbortController(),
      convention: stated?.origin.convention ?? 'from-1-with-digit',
    };
    await this.db.transaction((tx) =>
      appendAudit(tx, {
        actor: by,
        action: 'register search begun',
        subject: linkId,
        details: { ...wish, device: device.name },
      }),
    );
    this.known.set(one.view.id, one);
    for (const id of this.known.keys()) {
      if (this.known.size <= mostKept) break;
      if (this.known.get(id)?.view.state !== 'running') this.known.delete(id);
    }
    void this.run(one, subject, device);
    return one.view;
  }

  view(searchId: string): RegisterSearch {
    return this.find(searchId).view;
  }

  ofLink(linkId: string): RegisterSearch[] {
    return [...this.known.values()]
      .map(({ view }) => view)
      .filter((view) => view.linkId === linkId)
      .reverse();
  }

  end(searchId: string): void {
    this.find(searchId).end.abort();
  }

  stop(): void {
    for (const { end } of this.known.values()) end.abort();
  }

  private find(searchId: string): Running {
    const one = this.known.get(searchId);
    if (!one) throw notFound('search', searchId);
    return one;
  }

  private async run(one: Running, subject: LinkInPlant, device: Machine): Promise<void> {
    const holder = `the search for a register of ${device.name}`;
    const wish = { holder, patienceMs, signal: one.end.signal };
    let why: string | null = null;
    try {
      why = await this.locks.take(subject.serverMachine.id, wish, (lost) => {
        const signal = AbortSignal.any([one.end.signal, lost]);
        // One machine may be both.
        return device.id === subject.serverMachine.id
          ? this.sample(one, subject, device, signal)
          : this.locks.take(device.id, wish, (lostToo) =>
              this.sample(one, subject, device, AbortSignal.any([signal, lostToo])),
            );
      });
    } catch (error) {
      if (!one.end.signal.aborted)
        why = error instanceof ProblemError ? error.message : 'The search met an error. Begin it again.';
    }
    await this.look(one).catch(() => undefined);
    const isEnded = one.end.signal.aborted;
    one.view = {
      ...one.view,
      state: why === null && !isEnded ? 'done' : 'stopped',
      says: why ?? (isEnded && one.view.taken < 2 ? 'It was ended before enough was seen.' : one.view.says),
    };
  }

  /** @returns why it could not go on; null: it was carried out */
  private async sample(
    one: Running,
    subject: LinkInPlant,
    device: Machine,
    signal: AbortSignal,
  ): Promise<string | null> {
    const means = await meansOfLink(this.db, this.secrets, subject);
    const [address] = device.addresses;
    if (address === undefined || !isDeclared(address, means.declaredRanges))
      return `${device.name} is outside the declared address ranges, and was not dialled.`;
    const log = memoryLog();
    let why: string | null = null;
    let wasOpened = false;
    await benchWalks[subject.link.kind](subject, means, log, signal, async (session) => {
      wasOpened = true;
      why = await this.sampleSide(one, subject, session, { address, pauseMs: means.devicePauseMs }, signal);
    });
    return wasOpened ? why : refusal(subject, log.facts);
  }

  private async sampleSide(
    one: Running,
    subject: LinkInPlant,
    session: BenchSession,
    { address, pauseMs }: { readonly address: string; readonly pauseMs: number },
    signal: AbortSignal,
  ): Promise<string | null> {
    const { wish } = one.view;
    const nodeId = await this.nodeOf(subject, wish.path);
    if (nodeId === null) return `The last check did not find ${wish.path}. Check the link first.`;
    let line: DeviceLine | null = null;
    let failures = 0;
    let parts: readonly Part[] = [wish];
    try {
      for (let index = 0; index < wish.samples; index += 1) {
        const begun = performance.now();
        signal.throwIfAborted();
        if (!line?.isOpen) {
          const { outcome, socket } = await dialTcp(address, wish.port, null, patienceMs / 3, signal);
          line = socket && new DeviceLine(socket, patienceMs / 3);
          if (!line && (failures += 1) >= mostFailures) return `${one.view.device} port ${wish.port}: ${outcome}.`;
        }
        const read = line && (await this.readAll(line, one, parts, pauseMs, signal));
        // What the device does not have is not asked for again.
        if (read && !read.stopped && index === 0) parts = partsOf(read.places, wish.first);
        const reading = await session.read(nodeId);
        failures = read?.stopped ? failures + 1 : read ? 0 : failures;
        if (read?.stopped && failures >= mostFailures) return sayAsked(read.stopped);
        if (read?.places.every((place) => place === null) && !read.stopped)
          return `${one.view.device} has none of these places: it refused all of them.`;
        const value = valueIn(reading);
        if (read && !read.stopped && value !== null) one.samples.push({ value, places: read.places });
        one.view = {
          ...one.view,
          says: `Sampling ${wish.path} and ${wish.count} places of ${one.view.device}.`,
          taken: index + 1,
          values:
            read && !read.stopped && value !== null
              ? [...one.view.values, { at: new Date().toISOString(), value: Number(value) }]
              : one.view.values,
        };
        if ((index + 1) % lookEvery === 0) await this.look(one);
        if (index + 1 < wish.samples)
          await pause(Math.max(0, wish.everyMs - (performance.now() - begun)), undefined, { signal });
      }
      return one.samples.length < 2 ? 'The server gave no value that could be compared.' : null;
    } finally {
      line?.close();
    }
  }

  /** All parts of the range, one after the other, put together. */
  private async readAll(
    line: DeviceLine,
    { view: { wish } }: Running,
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

  /** Works out in a worker what was found so far. */
  private async look(one: Running): Promise<void> {
    if (one.samples.length < 2) return;
    const { wish } = one.view;
    const told = await this.heavy.run('findRegister', {
      input: { first: wish.first, holds: tableShapes[wish.table].holds, samples: one.samples },
      table: wish.table,
      convention: one.convention,
    });
    one.view = { ...one.view, ...told };
  }

  /** As the last check found it; items of classic servers have no other name. */
  private async nodeOf(subject: LinkInPlant, path: string): Promise<string | null> {
    if (subject.link.kind === 'classic') return path;
    const kept = await assessmentOf(this.db, subject.link.id);
    const facts: readonly Fact[] = kept ? await factsOfCheck(this.db, kept.checkId) : [];
    const found = facts.findLast((fact) => fact.kind === 'item-found' && fact.path === path);
    return found?.kind === 'item-found' && found.outcome === 'found' ? found.nodeId : null;
  }
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
