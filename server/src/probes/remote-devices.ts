import { randomUUID } from 'node:crypto';
import { isAnswered } from '@loyal-hinge/field';
import type { Asked, PlacesLine } from '@loyal-hinge/field';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import type { Database } from '../database/database.js';
import { conflict } from '../http/problems.js';
import type { OutpostLines } from '../outposts/lines.js';
import { findOutpost, isHere } from '../outposts/store.js';
import type { DeviceAddress, FarReaders } from '../probe/field/reach.js';

type Told = Extract<FromOutpost, { readonly visitId: string }>;
type DialOutcome = Extract<Told, { kind: 'device-opened' }>['outcome'];

/** What the line to a probe may take, beside what the device may. */
const lineMs = 5_000;

/** Devices that probes read for the server: each visit is a connection that a probe keeps, and asks over. */
export class RemoteDevices implements FarReaders {
  private readonly visits = new Map<string, Visit>();

  constructor(
    private readonly db: Database,
    private readonly lines: Pick<OutpostLines, 'has' | 'say'>,
  ) {}

  /** Has a probe connect to a device. */
  async open(probeId: string, to: DeviceAddress, signal: AbortSignal): Promise<PlacesLine | string> {
    const probe = await findOutpost(this.db, probeId);
    if (probe?.kind !== 'probe') return 'The probe that should read it was removed.';
    const { name } = probe;
    if (!this.lines.has(probeId))
      return isHere(probe)
        ? `The probe ${name} is connected to another process of the server.`
        : `The probe ${name} is not connected.`;
    if (probe.told?.kind !== 'probe' || !probe.told.readsDevices)
      return `The probe ${name} is of an older version, which reads no devices.`;
    const visitId = randomUUID();
    const visit = new Visit(name, to, (message) => this.lines.say(probeId, { visitId, ...message }), {
      outpostId: probeId,
      left: () => this.visits.delete(visitId),
    });
    this.visits.set(visitId, visit);
    const outcome = await visit.open(signal);
    return outcome === 'open' ? visit : sayOutcome(outcome, name, to);
  }

  /** What belongs to a visit is heard at once. A visit that is not this probe’s own is none. */
  hear(outpostId: string, message: Told): void {
    const visit = this.visits.get(message.visitId);
    if (visit?.ends.outpostId === outpostId) visit.hear(message);
  }

  /** A probe is connected no longer: so is what it kept for us. */
  gone(outpostId: string): void {
    for (const visit of [...this.visits.values()]) if (visit.ends.outpostId === outpostId) visit.vanish();
  }
}

type Said = Extract<FromServer, { readonly visitId: string }>;
type ToSay = Said extends infer One ? (One extends unknown ? Omit<One, 'visitId'> : never) : never;

/** The dialling is asked for before anything else is. */
const dialling = 0;

/** One connection to a device, kept by a probe. */
class Visit implements PlacesLine {
  private readonly waiting = new Map<number, (told: Told) => void>();
  /** Aborted when the probe vanishes. */
  private readonly over = new AbortController();
  private lastAsk = dialling;
  isOpen = false;

  constructor(
    private readonly probe: string,
    private readonly to: DeviceAddress,
    private readonly say: (message: ToSay) => boolean,
    readonly ends: { readonly outpostId: string; readonly left: () => void },
  ) {}

  async open(signal: AbortSignal): Promise<DialOutcome> {
    try {
      const { name: _, ...to } = this.to;
      const told = await this.ask(dialling, { kind: 'open-device', ...to }, to.connectMs, signal);
      this.isOpen = told.kind === 'device-opened' && told.outcome === 'open';
      return told.kind === 'device-opened' ? told.outcome : 'cancelled';
    } catch (error) {
      if (signal.aborted) return 'cancelled';
      throw error;
    } finally {
      if (!this.isOpen) this.close();
    }
  }

  /** @throws ProblemError where the probe vanishes: that says nothing of the device */
  async read(wish: Parameters<PlacesLine['read']>[0], signal: AbortSignal): Promise<Asked> {
    this.lastAsk += 1;
    const asked = await this.asked(this.lastAsk, wish, signal).catch((error: unknown): Asked => {
      this.close();
      if (signal.aborted) return { outcome: 'cancelled', ms: 0 };
      throw error;
    });
    // As at the device itself: after anything but an answer, nothing more comes over that connection.
    if (!isAnswered(asked) || !this.isOpen) this.close();
    return asked;
  }

  close(): void {
    this.isOpen = false;
    if (!this.over.signal.aborted) this.say({ kind: 'leave-device' });
    this.ends.left();
  }

  hear(told: Told): void {
    if (told.kind !== 'device-gone')
      return this.waiting.get(told.kind === 'device-opened' ? dialling : told.askId)?.(told);
    this.isOpen = false;
    // What was asked is told yet.
    if (this.waiting.size === 0) this.close();
  }

  vanish(): void {
    this.over.abort();
    this.close();
  }

  private async asked(askId: number, wish: Parameters<PlacesLine['read']>[0], signal: AbortSignal): Promise<Asked> {
    if (!this.isOpen) return { outcome: 'closed', received: 0, ms: 0 };
    const told = await this.ask(askId, { kind: 'read-device', askId, ...wish }, this.to.answerMs, signal);
    if (told.kind !== 'device-read') return { outcome: 'closed', received: 0, ms: 0 };
    const { asked } = told;
    return asked.outcome === 'values' && asked.values.length !== wish.count
      ? { outcome: 'malformed', ms: asked.ms, why: `${asked.values.length} places came of ${wish.count}` }
      : asked;
  }

  /** Says something, and waits for what the probe tells of it. */
  private ask(askId: number, message: ToSay, withinMs: number, signal: AbortSignal): Promise<Told> {
    const stop = AbortSignal.any([signal, this.over.signal, AbortSignal.timeout(withinMs + lineMs)]);
    return new Promise<Told>((resolve, reject) => {
      const fail = (): void => reject(this.vanished());
      stop.addEventListener('abort', fail, { once: true });
      this.waiting.set(askId, resolve);
      if (stop.aborted || !this.say(message)) fail();
    }).finally(() => this.waiting.delete(askId));
  }

  private readonly vanished = () =>
    conflict(
      `The probe ${this.probe} said nothing more in the midst of it.`,
      'Wait until it is connected again, or let the server read the device itself.',
    );
}

function sayOutcome(outcome: DialOutcome, probe: string, { name, address, port }: DeviceAddress): string {
  if (outcome === 'withheld')
    return `The probe ${probe} may not dial ${address}: see the ranges that its folder allows.`;
  if (outcome === 'too many') return `The probe ${probe} visits enough devices at the moment.`;
  return `${name}, ${address} port ${port}, from the probe ${probe}: ${outcome}.`;
}
