import { randomUUID } from 'node:crypto';
import { tableShapes } from '@loyal-hinge/core/field';
import type { AddressConvention, FieldSample } from '@loyal-hinge/core/field';
import { isPlantFault } from '@loyal-hinge/core';
import type { Fact, LinkInPlant, Machine } from '@loyal-hinge/core';
import type { RegisterSearch, RegisterSearchWish } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import { refusal } from '../../bench/answers.js';
import { benchWalks } from '../../bench/sessions/bench-walks.js';
import type { Database } from '../../database/database.js';
import { assessmentOf, factsOfCheck } from '../../facts/store.js';
import type { Runs } from '../../heavy/jobs.js';
import { conflict, invalid, notFound, ProblemError } from '../../http/problems.js';
import { meansOfLink } from '../../means/means-of-link.js';
import { findMachine, subjectAround } from '../../plant/part.js';
import { isDeclared } from '../../probe/address-ranges.js';
import { reachDevice } from '../../probe/field/reach.js';
import type { FarReaders } from '../../probe/field/reach.js';
import { memoryLog } from '../../probe/memory-log.js';
import type { MachineLocks } from '../../processes/machine-locks.js';
import type { SecretStore } from '../../secrets/sealing.js';
import { statedOrigins } from '../origins/stated.js';
import type { FieldJobs } from './jobs.js';
import { sampleSideBySide } from './side-by-side.js';

const mostRunning = 4;
const mostKept = 50;
/** So often is looked at what was seen, while it goes on. */
const lookEvery = 10;
const patienceMs = 15_000;

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
    private readonly far: FarReaders,
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
      const { path, port, reader } = one.view.wish;
      const { name } = device;
      const dial = (timeoutMs: number) =>
        reachDevice(this.far, reader, { name, address, port, connectMs: timeoutMs, answerMs: timeoutMs }, signal);
      const nodeId = await this.nodeOf(subject, path);
      const sides = nodeId !== null && {
        session,
        nodeId,
        device: { name, pauseMs: means.devicePauseMs, dial },
      };
      why = sides
        ? await sampleSideBySide(one.view.wish, sides, (taken, sample) => this.take(one, taken, sample), signal)
        : `The last check did not find ${path}. Check the link first.`;
    });
    if (!wasOpened) return refusal(subject, log.facts);
    return why ?? (one.samples.length < 2 ? 'The server gave no value that could be compared.' : null);
  }

  /** Keeps what a round brought, and looks at all from time to time. */
  private async take(one: Running, taken: number, sample: FieldSample | null): Promise<void> {
    if (sample) one.samples.push(sample);
    const { path, count } = one.view.wish;
    const told = sample ? [{ at: new Date().toISOString(), value: Number(sample.value) }] : [];
    one.view = {
      ...one.view,
      says: `Sampling ${path} and ${count} places of ${one.view.device}.`,
      taken,
      values: [...one.view.values, ...told],
    };
    if (taken % lookEvery === 0) await this.look(one);
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
