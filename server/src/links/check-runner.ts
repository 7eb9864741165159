import type { Logger } from 'pino';
import { assess, isPlantFault, offeredOf, usualRules } from '@loyal-hinge/core';
import type { Fact, FactBody, FactSource, LinkInPlant, StepId } from '@loyal-hinge/core';
import type { Check } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import { fitted } from '../database/fitted.js';
import type { Database } from '../database/database.js';
import type { CheckedSubject } from '../database/schema.js';
import type { SecretStore } from '../secrets/sealing.js';
import type { EventLog } from '../events/event-log.js';
import { subjectAround } from '../plant/part.js';
import { keepCertificate, noteShown } from '../certificates/store.js';
import { wayOf } from '../trust/lists/ways.js';
import type { AskedWrites, CheckLog, CheckMeans, ServerLists } from '../probe/means.js';
import { whyEnded } from '../probe/walk.js';
import { walks } from '../probe/walks.js';
import { meansOfLink, serverCertificateIn } from '../means/means-of-link.js';
import type { MachineLocks } from '../processes/machine-locks.js';
import type { ServerProcess } from '../processes/server-process.js';
import { keepEndpoints } from '../facts/endpoints.js';
import { keepRedundancy } from '../facts/redundancy.js';
import { noteSeen } from '../link-history/spans.js';
import { addFacts, factsOfCheck, keepAssessment } from '../facts/store.js';
import type { Taken } from './queue.js';
import { beginCheck, failInterruptedChecks, findCheck, linksThatMissed, moveCheck, writesOfCheck } from './store.js';

/** How long a check keeps trying to write what it saw while the database is away. */
const patienceMs = 5 * 60_000;
/** No check takes longer, whatever the other side does. */
const longestCheckMs = 90_000;

type Takes = 'all' | 'of probes here';

/** So long a check waits for its probe to be connected. */
const probePatienceMs = 60_000;
/** A check that its probe does not take to its end is asked for again, so often. */
const mostGivenBack = 3;

/** A probe that is connected to this process. */
export interface WalkingProbe {
  readonly id: string;
  readonly name: string;
}

/** Who walks links for the server, where somebody does. */
export interface RemoteProbes {
  whoWalksFrom(
    machineId: string,
  ): Promise<{ readonly probe: WalkingProbe; readonly state: 'here' | 'elsewhere' | 'away' } | null>;
  walk(
    probe: WalkingProbe,
    checkId: string,
    subject: LinkInPlant,
    means: CheckMeans,
    log: CheckLog,
    signal: AbortSignal,
  ): Promise<void>;
  /** Whether a walk ended because of the probe. */
  isFault(error: unknown): error is Error;
}

/** Carries checks out, one at a time per server’s machine, and writes down what they see. */
export class CheckRunner {
  private readonly running = new Map<string, AbortController>();
  private readonly stopping = new AbortController();
  /** Checks that were handed over. */
  private readonly taken = new Set<string>();
  /** How often in a row a probe did not take the check of a link to its end. */
  private readonly givenBackInARow = new Map<string, number>();
  /** For whose work a check waits, as far as that was told. */
  private readonly waiting = new Map<string, string>();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly events: EventLog,
    private readonly logger: Logger,
    private readonly server: Pick<ServerProcess, 'id'>,
    /** One connection at a time per machine, whoever dials it. */
    private readonly locks: Pick<MachineLocks, 'take' | 'takeIfFree' | 'personAt'>,
    private readonly readServerLists: (serverId: string, signal: AbortSignal) => Promise<ServerLists>,
    /** Told of which server or link it was seen how it stands: whatever waits for that to be proved is looked at. */
    private readonly seen: (subjectId: string) => Promise<void>,
    /** Who walks from a client’s machine: a probe that stands for it, or nobody but the server itself. */
    private readonly probes: RemoteProbes,
    /** Asks for checks: of links that missed what was found now, which is hidden from their users; of one whose probe vanished. */
    private readonly checkAfresh: (linkIds: readonly string[], askedBy: string) => Promise<unknown>,
  ) {}

  /**
   * Carries a queued check out, where its machine is free; otherwise nothing is done, and whoever asked takes another one
   * meanwhile.
   * @param who a process that serves people takes the checks of probes that are connected to it, and no others
   */
  async run(checkId: string, who: Takes = 'all'): Promise<Taken> {
    if (this.taken.has(checkId)) return 'over';
    this.taken.add(checkId);
    try {
      return await this.runOnce(checkId, who);
    } finally {
      this.taken.delete(checkId);
    }
  }

  /** True while a check runs here. */
  has(checkId: string): boolean {
    return this.taken.has(checkId);
  }

  private async runOnce(checkId: string, who: Takes): Promise<Taken> {
    const asked = await persist(patienceMs, () => findCheck(this.db, checkId));
    if (asked?.state !== 'queued') return this.over(checkId);
    const subject = await persist(patienceMs, () => subjectAround(this.db, asked.linkId));
    if (isPlantFault(subject)) {
      await this.end(checkId, asked.linkId, ['queued'], { state: 'failed', reason: subject.says });
      return this.over(checkId);
    }
    const walker = await persist(patienceMs, () => this.probes.whoWalksFrom(subject.clientMachine.id));
    if (walker?.state === 'elsewhere') return 'of a probe elsewhere';
    if (who === 'of probes here' && walker?.state !== 'here') return 'of no probe here';
    if (walker && walker.state !== 'here') return this.waitForProbe(asked, walker);
    const { id: machineId } = subject.serverMachine;
    const wish = { holder: `the check of ${subject.link.name}`, signal: this.stopping.signal };
    const ran = await this.locks.takeIfFree(machineId, wish, (lost) =>
      this.carryOut(asked, subject, walker?.probe ?? null, lost),
    );
    if (ran) return this.over(checkId);
    await this.tellWhomItWaitsFor(asked, machineId);
    return 'machine is busy';
  }

  /** A probe that is away may come back; after a while the check ends, and says so. */
  private async waitForProbe(
    asked: Check,
    { probe: { name } }: NonNullable<Awaited<ReturnType<RemoteProbes['whoWalksFrom']>>>,
  ): Promise<Taken> {
    if (Date.now() - Date.parse(asked.askedAt) > probePatienceMs) {
      const reason = `The probe ${name}, from which this link is checked, is not connected. Start it on its machine, or let the server check the link itself (Passage, Probes).`;
      await this.end(asked.id, asked.linkId, ['queued'], { state: 'failed', reason });
      return this.over(asked.id);
    }
    await this.tellOnce(asked, `the probe ${name}, which is not connected`);
    return 'machine is busy';
  }

  private over(checkId: string): 'over' {
    this.waiting.delete(checkId);
    return 'over';
  }

  /** Told once for each whom it waits for. */
  private async tellWhomItWaitsFor(asked: Check, machineId: string): Promise<void> {
    const holder = await this.locks.personAt(machineId);
    if (holder !== null) await this.tellOnce(asked, holder);
  }

  private async tellOnce(asked: Check, holder: string): Promise<void> {
    if (this.waiting.get(asked.id) === holder) return;
    this.waiting.set(asked.id, holder);
    await this.tellWaiting(asked, holder);
  }

  private async tellWaiting({ id: checkId, linkId }: Check, waitsFor: string): Promise<void> {
    await this.events.tell({ kind: 'check-waits', checkId, linkId, waitsFor }).catch(() => undefined);
  }

  /** Stops a running check; false where it does not run here. */
  cancel(checkId: string): boolean {
    const controller = this.running.get(checkId);
    controller?.abort(new Error('it was cancelled.'));
    return controller !== undefined;
  }

  cancelAll(): void {
    this.stopping.abort(new Error('the server stops.'));
    for (const controller of this.running.values()) controller.abort(new Error('the server stops.'));
  }

  /**
   * What was running in a process that is gone can’t be taken up again, since its connections are gone; nor what this
   * one gave up while the database was away for longer than its patience.
   */
  async failInterrupted(): Promise<void> {
    const reason = 'The server was stopped in the middle of the check. Ask for it again.';
    const here = { serverId: this.server.id, isAtWork: (id: string) => this.taken.has(id) };
    for (const { id: checkId, linkId } of await failInterruptedChecks(this.db, here, reason))
      await this.events.tell({ kind: 'check-ended', checkId, linkId, state: 'failed', found: null });
  }

  private async meansOf(subject: LinkInPlant): Promise<CheckMeans> {
    const { id: serverId } = subject.server;
    const [means, way] = await Promise.all([meansOfLink(this.db, this.secrets, subject), wayOf(this.db, serverId)]);
    return way?.way === 'push'
      ? { ...means, readServerLists: (signal) => this.readServerLists(serverId, signal) }
      : means;
  }

  private async carryOut(
    asked: Check,
    subject: LinkInPlant,
    probe: WalkingProbe | null,
    lost: AbortSignal,
  ): Promise<void> {
    const begun = await persist(patienceMs, () =>
      beginCheck(this.db, asked.id, this.server.id, checkedSubject(subject)),
    );
    if (!begun) return;
    const controller = new AbortController();
    this.running.set(asked.id, controller);
    const timer = setTimeout(() => controller.abort(new Error('it took too long.')), longestCheckMs);
    const lose = (): void => controller.abort(lost.reason);
    lost.addEventListener('abort', lose, { once: true });
    const log = new WrittenLog(this.db, this.events, asked, subject, probe?.name);
    try {
      const [means, writes] = await persist(patienceMs, () =>
        Promise.all([this.meansOf(subject), writesOfCheck(this.db, asked.id)]),
      );
      const whole: CheckMeans = {
        ...means,
        writes,
        atDevice: (deviceId, run, signal) =>
          this.locks.take(deviceId, { holder: `the check of ${subject.link.name}`, signal }, run),
      };
      if (probe) await this.probes.walk(probe, asked.id, subject, whole, log, controller.signal);
      else await walks[subject.link.kind](subject, whole, log, controller.signal);
      await log.written();
      this.givenBackInARow.delete(asked.linkId);
      if (writes) await this.noteWritten(asked, writes, log.noted);
      await this.conclude(asked, subject, controller.signal);
    } catch (error) {
      if (probe && this.probes.isFault(error)) return await this.givenBack(asked, error);
      this.logger.error(
        { checkId: asked.id, reason: error instanceof Error ? error.message : 'unknown', cause: causeOf(error) },
        'a check failed',
      );
      await this.end(asked.id, asked.linkId, ['running'], {
        state: 'failed',
        reason: 'The server met an error while checking. Ask for it again.',
      }).catch(() => undefined);
    } finally {
      clearTimeout(timer);
      lost.removeEventListener('abort', lose);
      this.running.delete(asked.id);
    }
  }

  /** What a probe could not take to its end is asked for again; the queue keeps it until the probe is back. */
  private async givenBack(asked: Check, { message }: Error): Promise<void> {
    const times = (this.givenBackInARow.get(asked.linkId) ?? 0) + 1;
    this.givenBackInARow.set(asked.linkId, times);
    const isLast = times >= mostGivenBack;
    const reason = isLast ? `${message} It was tried ${mostGivenBack} times.` : `${message} It is checked again.`;
    await this.end(asked.id, asked.linkId, ['running'], { state: 'failed', reason });
    if (isLast) this.givenBackInARow.delete(asked.linkId);
    else await this.checkAfresh([asked.linkId], asked.askedBy);
  }

  /** Every write stands in the trail with what was there before and after, and why it was asked for. */
  private async noteWritten(
    { id: checkId, linkId }: Check,
    { by, why }: AskedWrites,
    noted: readonly Fact[],
  ): Promise<void> {
    const written = noted.filter((fact) => fact.kind === 'item-written');
    await persist(patienceMs, () =>
      this.db.transaction(async (tx) => {
        for (const { path, outcome, code, before, after } of written) {
          const details = { path, outcome, code, before, after, why, checkId };
          await appendAudit(tx, { actor: by, action: 'item written', subject: linkId, details });
        }
      }),
    );
  }

  private async conclude(asked: Check, subject: LinkInPlant, signal: AbortSignal): Promise<void> {
    if (signal.aborted) {
      const reason = `The check was ended: ${whyEnded(signal)} The verdicts of the previous one remain.`;
      return this.end(asked.id, asked.linkId, ['running'], { state: 'cancelled', reason });
    }
    const at = new Date().toISOString();
    const seen = await persist(patienceMs, () => factsOfCheck(this.db, asked.id));
    const met = await persist(patienceMs, () => subjectAround(this.db, asked.linkId, addressesIn(seen)));
    const machines = isPlantFault(met) ? subject.machines : met.machines;
    const body = assess({ ...subject, machines }, seen, usualRules, at);
    const seenNow = { linkId: asked.linkId, checkId: asked.id, at, body };
    await persist(patienceMs, () => keepAssessment(this.db, seenNow));
    await persist(patienceMs, () => noteSeen(this.db, seenNow));
    await persist(patienceMs, () => this.noteServersCertificate(subject, seen));
    await persist(patienceMs, () => this.noteEndpoints(asked, subject, seen));
    await persist(patienceMs, () => this.noteRedundancy(subject, seen));
    await persist(patienceMs, () => this.seen(asked.linkId));
    await this.end(asked.id, asked.linkId, ['running'], { state: 'done', found: body.state });
    await persist(patienceMs, () => this.tellWhoMissedIt(asked, subject, seen));
  }

  private async tellWhoMissedIt({ askedBy }: Check, { link }: LinkInPlant, seen: readonly Fact[]): Promise<void> {
    const paths = seen.flatMap((fact) => (fact.kind === 'item-found' && fact.outcome === 'found' ? [fact.path] : []));
    const missed = paths.length === 0 ? [] : await linksThatMissed(this.db, link, paths);
    if (missed.length > 0) await this.checkAfresh(missed, askedBy);
  }

  /** What a server offers is known of it, where it is the one that the plant means. */
  private async noteEndpoints({ id: checkId }: Check, { server }: LinkInPlant, seen: readonly Fact[]): Promise<void> {
    const listing = listingOf(server, seen);
    if (!listing) return;
    const endpoints = listing.endpoints.map(offeredOf);
    if (await keepEndpoints(this.db, { serverId: server.id, checkId, seenAt: listing.at, endpoints }))
      await this.events.tell({ kind: 'entry-changed' });
    await this.seen(server.id);
  }

  /** Who stands in for a server is known of it, where it told that, and is the one that the plant means. */
  private async noteRedundancy({ server }: LinkInPlant, seen: readonly Fact[]): Promise<void> {
    const told = seen.findLast((fact) => fact.kind === 'redundancy');
    if (told?.kind !== 'redundancy' || !listingOf(server, seen)) return;
    const uris = told.others.map(({ applicationUri }) => applicationUri);
    if (await keepRedundancy(this.db, { serverId: server.id, seenAt: told.at, uris }))
      await this.events.tell({ kind: 'passage-changed' });
  }

  /** What a server shows is known of it, where it is the one that the plant means. */
  private async noteServersCertificate({ server }: LinkInPlant, seen: readonly Fact[]): Promise<void> {
    const shown = serverCertificateIn(seen);
    if (shown?.applicationUris.includes(server.applicationUri)) await noteShown(this.db, server.id, shown.thumbprint);
  }

  private async end(
    checkId: string,
    linkId: string,
    from: readonly Check['state'][],
    to: { state: Check['state']; reason?: string; found?: Check['found'] },
  ): Promise<void> {
    await persist(patienceMs, async () => {
      await moveCheck(this.db, checkId, from, { ...to, endedAt: new Date().toISOString() });
      await this.events.tell({ kind: 'check-ended', checkId, linkId, state: to.state, found: to.found ?? null });
    });
  }
}

/** What the server that the plant means said of its endpoints; null: nothing, or another application answered. */
function listingOf({ applicationUri }: LinkInPlant['server'], seen: readonly Fact[]) {
  const listing = seen.findLast((fact) => fact.kind === 'endpoints');
  if (listing?.kind !== 'endpoints' || listing.outcome !== 'listed') return null;
  return listing.endpoints[0]?.applicationUri === applicationUri ? listing : null;
}

/** What an error says that lies behind another one, such as the database’s own. */
const causeOf = (error: unknown): string | null =>
  error instanceof Error && error.cause instanceof Error ? error.cause.message : null;

/** The addresses that a check saw a name lead to. */
export const addressesIn = (facts: readonly Fact[]): readonly string[] =>
  facts.flatMap((fact) => (fact.kind === 'name-resolution' ? fact.addresses : []));

const checkedSubject = ({ link, client, clientMachine, server, serverMachine }: LinkInPlant): CheckedSubject => ({
  link,
  client,
  clientMachine,
  server,
  serverMachine,
});

/** Notes facts in memory and writes them down behind the walk’s back, in order. */
class WrittenLog implements CheckLog {
  private readonly facts: Fact[] = [];
  private writtenUpTo = 0;
  private writing: Promise<void> = Promise.resolve();

  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
    private readonly check: Check,
    private readonly subject: LinkInPlant,
    /** The probe that walks, by its name; undefined: the server itself does. */
    private readonly seenBy: string | undefined,
  ) {}

  begin(step: StepId): void {
    const { id: checkId, linkId } = this.check;
    const seen = [...this.facts];
    this.enqueue(async () => {
      await this.flush();
      const { steps } = assess(this.subject, seen, usualRules, new Date().toISOString());
      const verdicts = steps.map(({ verdict }) => verdict);
      await this.events.tell({ kind: 'check-step', checkId, linkId, step, verdicts });
    });
  }

  get noted(): readonly Fact[] {
    return this.facts;
  }

  note(body: FactBody, source: FactSource = 'tried', at = new Date().toISOString()): Fact {
    const fact: Fact = {
      ...fitted(body),
      id: `${this.check.id}/${this.facts.length + 1}`,
      source,
      at,
      ...(this.seenBy === undefined ? {} : { seenBy: this.seenBy }),
    };
    this.facts.push(fact);
    return fact;
  }

  keep(der: Uint8Array): void {
    this.enqueue(async () => void (await keepCertificate(this.db, der)));
  }

  async written(): Promise<void> {
    this.enqueue(() => this.flush());
    await this.writing;
  }

  private enqueue(write: () => Promise<void>): void {
    this.writing = this.writing.then(() => persist(patienceMs, write));
    this.writing.catch(() => undefined);
  }

  private async flush(): Promise<void> {
    const added = this.facts.slice(this.writtenUpTo);
    await addFacts(this.db, this.check.id, this.check.linkId, this.writtenUpTo + 1, added);
    this.writtenUpTo += added.length;
  }
}
