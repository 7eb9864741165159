import type { Fact, FactBody, FactSource, PassageFact, StepId } from '@loyal-hinge/core';
import type { FromOutpost, FromServer, ProbeAsk } from '@loyal-hinge/contract/line';
import { rangesInBoth } from '../probe/address-ranges.js';
import type { CheckLog, CheckMeans, SeenByOther, KnownRedundant } from '../probe/means.js';
import { unpacked, unpackedLists, unpackedMeans, unpackedSubject, withSince } from '../probe/packed.js';
import { walks } from '../probe/walks.js';

type WalkWish = Extract<FromServer, { kind: 'walk' }>;
type Say = (message: FromOutpost) => void;

/** The walks of a probe: it does for the server what the server does itself, and dials nothing that its own ranges leave out. */
export class ProbeWalks {
  private readonly walking = new Map<string, AbortController>();
  private readonly asked = new Map<number, { answer(value: unknown): void; fail(error: Error): void }>();
  private lastAsk = 0;

  constructor(
    private readonly ranges: readonly string[],
    private readonly say: Say,
  ) {}

  hear(message: FromServer): void {
    if (message.kind === 'walk') void this.walk(message);
    if (message.kind === 'cancel') this.walking.get(message.checkId)?.abort(new Error('it was cancelled.'));
    if (message.kind === 'answer') {
      const waiting = this.asked.get(message.askId);
      this.asked.delete(message.askId);
      if (message.says === null) waiting?.answer(message.value);
      else waiting?.fail(new Error(message.says));
    }
  }

  /** The server is gone: what was walked for it is ended, and nobody hears of it. */
  endAll(): void {
    for (const controller of this.walking.values()) controller.abort(new Error('the server is gone.'));
    for (const { fail } of this.asked.values()) fail(new Error('the server is gone.'));
    this.asked.clear();
  }

  private async walk({ checkId, link, subject, means }: WalkWish): Promise<void> {
    const controller = new AbortController();
    this.walking.set(checkId, controller);
    let says: string | null = null;
    try {
      const log = new ToldLog(checkId, this.say);
      await walks[link](unpackedSubject(subject), this.meansOf(checkId, means), log, controller.signal);
    } catch (error) {
      says = `The probe could not check it: ${error instanceof Error ? error.message : String(error)}`.slice(0, 2_000);
    }
    this.walking.delete(checkId);
    this.say({ kind: 'walked', checkId, says });
  }

  private meansOf(checkId: string, value: unknown): CheckMeans {
    const { asked, knownServerLists, ...means } = unpackedMeans(value);
    const ask = (what: ProbeAsk, about: unknown): Promise<unknown> => this.ask(checkId, what, about);
    return {
      ...means,
      // Who talks to a device is known to the server alone.
      atDevice: async (deviceId, run) => {
        await ask('at-device', deviceId);
        try {
          return await run();
        } finally {
          void ask('left-device', deviceId).catch(() => undefined);
        }
      },
      declaredRanges: rangesInBoth(means.declaredRanges, this.ranges),
      knownServerLists: knownServerLists && withSince(knownServerLists, asked.rejectedSince),
      signIns: {
        whyPaused: async () =>
          (await ask('may-sign-in', null)) as Awaited<ReturnType<CheckMeans['signIns']['whyPaused']>>,
        note: async (code) => void (await ask('signed-in', code)),
      },
      seenByOthers: asked.seenByOthers
        ? async (paths) => unpacked(await ask('seen-by-others', paths)) as readonly SeenByOther[]
        : null,
      readServerLists: asked.readServerLists ? async () => unpackedLists(await ask('server-lists', null)) : null,
      passage: async (addresses) => unpacked(await ask('passage', addresses)) as readonly PassageFact[],
      redundant: async (uris) => unpacked(await ask('redundant', uris)) as KnownRedundant,
    };
  }

  private ask(checkId: string, what: ProbeAsk, about: unknown): Promise<unknown> {
    this.lastAsk += 1;
    const askId = this.lastAsk;
    return new Promise((answer, fail) => {
      this.asked.set(askId, { answer, fail });
      this.say({ kind: 'ask', checkId, askId, what, about });
    });
  }
}

/** Tells the server what is observed, as it comes. */
class ToldLog implements CheckLog {
  private count = 0;

  constructor(
    private readonly checkId: string,
    private readonly say: Say,
  ) {}

  begin(step: StepId): void {
    this.say({ kind: 'step', checkId: this.checkId, step });
  }

  note(body: FactBody, source: FactSource = 'tried'): Fact {
    this.count += 1;
    this.say({ kind: 'fact', checkId: this.checkId, source, body: { ...body } });
    return { ...body, id: `${this.checkId}/${this.count}`, source, at: new Date().toISOString() };
  }

  keep(der: Uint8Array): void {
    this.say({ kind: 'bytes', checkId: this.checkId, der: Buffer.from(der).toString('base64') });
  }
}
