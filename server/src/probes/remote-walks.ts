import { assess, sayFact, stepIds, usualRules } from '@loyal-hinge/core';
import type { Fact, FactBody, LinkInPlant, StepId } from '@loyal-hinge/core';
import type { FromOutpost, ProbeAsk } from '@loyal-hinge/contract/line';
import type { Database } from '../database/database.js';
import type { OutpostEars, OutpostLines } from '../outposts/lines.js';
import { changeOutpost, findOutpost, isHere } from '../outposts/store.js';
import type { OutpostRow } from '../outposts/store.js';
import type { CheckLog, CheckMeans } from '../probe/means.js';
import { packed, packedLists, packedMeans } from '../probe/packed.js';
import type { RemoteDevices } from './remote-devices.js';
import { probeFor } from './store.js';

/** No walk has more facts. */
const mostFacts = 20_000;

interface Walking {
  readonly outpostId: string;
  readonly subject: LinkInPlant;
  readonly means: CheckMeans;
  readonly log: CheckLog;
  readonly noted: Fact[];
  /** Told since the step began, and not judged yet. */
  told: Fact[];
  readonly signal: AbortSignal;
  /** Aborted when the walk is over, whatever its end. */
  readonly over: AbortController;
  /** Lets others to the devices that the probe talks to. */
  leaveDevice: () => void;
  end(error: Error | null): void;
}

/** Why a walk could not be taken to its end by a probe, in words for whoever asked for the check. */
export class ProbeFault extends Error {}

/** Walks that probes make for the server: it hands them what they need, and takes what they observe. */
export class RemoteWalks implements OutpostEars {
  private readonly walking = new Map<string, Walking>();
  private readonly connected = new Set<string>();
  private hearAny: (isAny: boolean) => void = () => undefined;

  constructor(
    private readonly db: Database,
    private readonly lines: OutpostLines,
    /** What probes read of devices, beside their walks. */
    private readonly devices: Pick<RemoteDevices, 'hear' | 'gone'>,
  ) {}

  /** Who walks for a client’s machine: the server, a probe that is connected to this process, or one that is elsewhere or away. */
  async whoWalksFrom(
    machineId: string,
  ): Promise<{ readonly probe: OutpostRow; readonly state: 'here' | 'elsewhere' | 'away' } | null> {
    const probe = await probeFor(this.db, machineId);
    if (!probe) return null;
    return { probe, state: this.lines.has(probe.id) ? 'here' : isHere(probe) ? 'elsewhere' : 'away' };
  }

  /**
   * Has a link walked by a probe, as the server would walk it itself.
   * @throws ProbeFault where the probe vanishes, or tells what can’t be
   */
  async walk(
    { id }: { readonly id: string },
    checkId: string,
    subject: LinkInPlant,
    means: CheckMeans,
    log: CheckLog,
    signal: AbortSignal,
  ): Promise<void> {
    const probe = await findOutpost(this.db, id);
    if (!probe) throw new ProbeFault('The probe was removed.');
    await new Promise<void>((resolve, reject) => {
      const cancel = (): void => {
        this.lines.say(probe.id, { kind: 'cancel', checkId });
        // Who does not end a walk that was cancelled is not waited for.
        setTimeout(() => end(null), 5_000).unref();
      };
      const end = (error: Error | null): void => {
        const walking = this.walking.get(checkId);
        if (!walking) return;
        this.walking.delete(checkId);
        walking.over.abort();
        walking.leaveDevice();
        signal.removeEventListener('abort', cancel);
        if (error) reject(error);
        else resolve();
      };
      this.walking.set(checkId, {
        outpostId: probe.id,
        subject,
        means,
        log,
        noted: [],
        told: [],
        signal,
        over: new AbortController(),
        leaveDevice: () => undefined,
        end,
      });
      signal.addEventListener('abort', cancel, { once: true });
      const isSent = this.lines.say(probe.id, {
        kind: 'walk',
        checkId,
        link: subject.link.kind,
        subject: packed(subject),
        // Where the near end is another machine’s address, the probe has none such.
        means: packedMeans({
          ...means,
          dialFromClientAddress: means.dialFromClientAddress && probe.machineId === subject.clientMachine.id,
        }),
      });
      if (!isSent)
        end(
          new ProbeFault(
            `The probe ${probe.name} is not connected any more, or what the check needs is too long for it.`,
          ),
        );
      if (signal.aborted) cancel();
    });
  }

  isFault = (error: unknown): error is Error => error instanceof ProbeFault;

  wanted = () => Promise.resolve([]);

  async told(outpost: OutpostRow, message: FromOutpost): Promise<boolean> {
    if (message.kind !== 'probe') return false;
    await changeOutpost(this.db, outpost.id, { told: message });
    return true;
  }

  /** What belongs to a walk is heard at once, in its order. A walk that is not this probe’s own is none. */
  quickly(outpostId: string, message: FromOutpost): boolean {
    if ('visitId' in message) {
      this.devices.hear(outpostId, message);
      return true;
    }
    if (!('checkId' in message)) return false;
    const walking = this.walking.get(message.checkId);
    if (walking?.outpostId !== outpostId) return true;
    try {
      this.hear(walking, message);
    } catch {
      walking.end(new ProbeFault('The probe told what can’t be: the check was ended.'));
    }
    return true;
  }

  /** Told when the first probe is connected to this process, and when the last one is gone. */
  whenAny(hear: (isAny: boolean) => void): void {
    this.hearAny = hear;
  }

  here(outpostId: string): void {
    this.connected.add(outpostId);
    if (this.connected.size === 1) this.hearAny(true);
  }

  gone(outpostId: string): void {
    this.devices.gone(outpostId);
    if (this.connected.delete(outpostId) && this.connected.size === 0) this.hearAny(false);
    for (const walking of [...this.walking.values()])
      if (walking.outpostId === outpostId)
        walking.end(new ProbeFault('The probe vanished in the middle of the check.'));
  }

  private hear(walking: Walking, message: Extract<FromOutpost, { readonly checkId: string }>): void {
    const { log } = walking;
    switch (message.kind) {
      case 'step':
        if (!isStep(message.step)) throw new Error('no step');
        this.noteTold(walking);
        return log.begin(message.step);
      case 'fact':
        return this.hearFact(walking, message.body as unknown as FactBody, message.source);
      case 'bytes':
        return log.keep(new Uint8Array(Buffer.from(message.der, 'base64')));
      case 'ask':
        return void this.answer(walking, message);
      case 'walked':
        this.noteTold(walking);
        return walking.end(message.says === null ? null : new ProbeFault(message.says));
    }
  }

  /** What can’t be said is no fact. */
  private hearFact({ noted, told }: Walking, body: FactBody, source: Fact['source']): void {
    if (noted.length + told.length >= mostFacts) throw new Error('too many facts');
    const fact = { ...body, id: 'told', source, at: new Date().toISOString() } as Fact;
    if (typeof sayFact(fact) !== 'string') throw new Error('no fact');
    told.push(fact);
  }

  /** The facts of a step are written down together once they can be judged: what can’t be would break every page that shows them. */
  private noteTold(walking: Walking): void {
    const { log, noted, told, subject } = walking;
    if (told.length === 0) return;
    assess(subject, [...noted, ...told], usualRules, new Date().toISOString());
    for (const { id: _, source, at, ...body } of told) noted.push(log.note(body as FactBody, source, at));
    walking.told = [];
  }

  private async answer(walking: Walking, { askId, what, about }: Extract<FromOutpost, { kind: 'ask' }>): Promise<void> {
    const { outpostId } = walking;
    try {
      const value = await answers[what](walking, about);
      this.lines.say(outpostId, { kind: 'answer', askId, value, says: null });
    } catch (error) {
      const says = (error instanceof Error ? error.message : String(error)).slice(0, 2_000);
      this.lines.say(outpostId, { kind: 'answer', askId, value: null, says });
    }
  }
}

const texts = (value: unknown): readonly string[] =>
  Array.isArray(value) ? value.filter((each): each is string => typeof each === 'string').slice(0, 10_000) : [];

/** Holds a device for a probe until it says that it has left, or its walk ends. */
async function heldFor(walking: Walking, about: unknown): Promise<null> {
  const { means, signal, over } = walking;
  const known = means.origins.find(({ origin }) => origin.deviceId === about);
  if (!known) throw new Error('No item of this server comes from there.');
  walking.leaveDevice();
  await new Promise<void>((held, fail) => {
    means
      .atDevice(
        known.origin.deviceId,
        () =>
          new Promise<void>((left) => {
            if (over.signal.aborted) return left();
            const leaveOthers = walking.leaveDevice;
            walking.leaveDevice = () => {
              leaveOthers();
              left();
            };
            held();
          }),
        AbortSignal.any([signal, over.signal]),
      )
      .catch(fail);
  });
  return null;
}

const answers: Readonly<Record<ProbeAsk, (walking: Walking, about: unknown) => Promise<unknown>>> = {
  'at-device': heldFor,
  'left-device': (walking) => {
    walking.leaveDevice();
    return Promise.resolve(null);
  },
  'may-sign-in': ({ means }) => means.signIns.whyPaused(),
  'signed-in': async ({ means }, about) => {
    await means.signIns.note(typeof about === 'string' ? about.slice(0, 200) : null);
    return null;
  },
  'seen-by-others': async ({ means }, about) => packed((await means.seenByOthers?.(texts(about))) ?? []),
  'server-lists': async ({ means, signal }) => {
    if (!means.readServerLists) throw new Error('There is no way to these lists.');
    return packedLists(await means.readServerLists(signal));
  },
  passage: async ({ means }, about) => packed(await means.passage(texts(about))),
  redundant: async ({ means }, about) => packed(await means.redundant(texts(about))),
};

const isStep = (text: string): text is StepId => (stepIds as readonly string[]).includes(text);
