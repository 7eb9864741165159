import { randomUUID } from 'node:crypto';
import { explainedStatusCode, isPatternFault, itemPattern } from '@loyal-hinge/core';
import type { Fact } from '@loyal-hinge/core';
import type {
  BenchDescribed,
  BenchHistory,
  BenchMatches,
  BenchNode,
  BenchOpened,
  BenchReading,
  BenchTyped,
  BenchWatchWish,
  BenchWrite,
  BenchWritten,
  Recording,
  RecordingWish,
} from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { SecretStore } from '../secrets/sealing.js';
import { ProblemError, conflict, invalid, notFound } from '../http/problems.js';
import { meansOfLink } from '../means/means-of-link.js';
import { memoryLog } from '../probe/memory-log.js';
import type { Links } from '../links/service.js';
import type { MachineLocks } from '../processes/machine-locks.js';
import { Slots } from '../processes/slots.js';
import { whenAborted } from '../processes/when-aborted.js';
import { explained, listeningWords, refusal, shown } from './answers.js';
import type { EventHearer, PageHeard } from './heard.js';
import { LiveSession } from './live-session.js';
import type { OpenSession, SessionState } from './live-session.js';
import type { Recordings } from './recordings.js';
import type { BenchSession } from './sessions/bench-session.js';
import { benchWalks } from './sessions/bench-walks.js';
import { WatchedNodes } from './watched-nodes.js';
import { BenchWrites } from './writes.js';

const idleMs = 5 * 60_000;
/** Why a bench was closed that nobody used. */
const unused = new Error('nobody used it');
const mostBenches = 20;
/** A page that is loaded anew, or watches something else, is back before. */
const pageAwayMs = 8_000;
/** Whoever has opened a bench uses it sooner; where the answer was lost on its way, nobody would ever close it. */
const unusedMs = 30_000;
/** A machine is dialled by one at a time: a bench waits for the check before it, and for no other bench. */
const waitsForMachineMs = 8_000;
const mostRecorded = 2000;

/** For whom a session is held. */
export interface BenchHolder {
  readonly owner: string;
  /** Their page, as it calls itself, which hears of the session; null: none does. */
  readonly page: string | null;
}

interface OpenBench extends BenchHolder {
  readonly id: string;
  readonly live: LiveSession;
  readonly watched: WatchedNodes;
  readonly end: AbortController;
  lastUsed: number;
  /** Streams of its page that are open now. */
  streams: number;
  readonly linkName: string;
  readonly writes: BenchWrites;
  /** Closes it, where nobody comes back. */
  leaving: NodeJS.Timeout | null;
  isUsed: boolean;
}

/** Live sessions by hand, each on a link that a check would find usable; one that nobody uses is closed by itself. */
export class Benches {
  private readonly open = new Map<string, OpenBench>();
  /** Pages that hear of their sessions. */
  private readonly hearing = new Set<{ readonly holder: BenchHolder; join(bench: OpenBench): void }>();
  private readonly slots = new Slots(mostBenches);
  private readonly sweeper = setInterval(() => this.sweep(), 30_000).unref();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly links: Links,
    private readonly locks: Pick<MachineLocks, 'take'>,
    private readonly recordings: Pick<Recordings, 'begin'>,
  ) {}

  /**
   * Walks the link as a check does and keeps the session that it ends in.
   * @param signal aborts when the one who asked has gone before the answer was there: nobody would ever close the bench
   */
  async openOn(linkId: string, holder: BenchHolder, signal: AbortSignal): Promise<BenchOpened> {
    const free = this.slots.take();
    if (free === null) throw conflict('Too many benches are open.', 'Close one first.');
    const end = new AbortController();
    end.signal.addEventListener('abort', free, { once: true });
    try {
      return await this.openUntil(end, linkId, holder, signal);
    } catch (error) {
      free();
      throw error;
    }
  }

  private async openUntil(
    end: AbortController,
    linkId: string,
    { owner, page }: BenchHolder,
    signal: AbortSignal,
  ): Promise<BenchOpened> {
    const subject = await this.links.subject(linkId);
    let facts: readonly Fact[] = [];
    signal.addEventListener('abort', () => end.abort(), { once: true });
    signal.throwIfAborted();
    const wish = {
      holder: `the bench of ${owner} on ${subject.link.name}`,
      byPerson: true,
      signal: end.signal,
      patienceMs: waitsForMachineMs,
    };
    const live = new LiveSession(end.signal);
    let fault: unknown = null;
    // The machine is held while a session is there or is opened: while it is lost, checks may find out why.
    const open: OpenSession = async (use) => {
      try {
        return await this.locks.take(subject.serverMachine.id, wish, async (lost) => {
          const means = await meansOfLink(this.db, this.secrets, subject);
          const log = memoryLog();
          let wasOpened = false;
          const held = AbortSignal.any([end.signal, lost]);
          await benchWalks[subject.link.kind](subject, means, log, held, async (opened) => {
            wasOpened = true;
            facts = log.facts;
            await Promise.race([use(opened), whenAborted(lost)]);
          });
          return wasOpened ? null : refusal(subject, log.facts);
        });
      } catch (error) {
        fault = error;
        throw error;
      }
    };
    // A session that is given up leaves no bench behind.
    void live.hold(open).finally(() => end.abort());
    const why = await live.first;
    if (why !== null)
      throw fault instanceof ProblemError ? fault : conflict(why, 'Check the link, and mend what the check finds.');
    const bench: OpenBench = {
      id: randomUUID(),
      owner,
      page,
      live,
      watched: new WatchedNodes(live, () => (bench.lastUsed = Date.now())),
      end,
      linkName: subject.link.name,
      writes: new BenchWrites(this.db, linkId, owner),
      lastUsed: Date.now(),
      streams: 0,
      leaving: setTimeout(() => end.abort(), unusedMs).unref(),
      isUsed: false,
    };
    this.open.set(bench.id, bench);
    await bench.watched.begin();
    end.signal.addEventListener('abort', () => this.open.delete(bench.id), { once: true });
    try {
      await this.db.transaction((tx) =>
        appendAudit(tx, { actor: owner, action: 'bench opened', subject: linkId, details: {} }),
      );
    } catch (error) {
      // Nobody learns of a bench whose opening could not be written down: it must not hold its machine.
      this.close(bench.id, owner);
      throw error;
    }
    for (const { holder, join } of this.hearing) if (isOf(holder, bench)) join(bench);
    const { kind, name: linkName } = subject.link;
    return { benchId: bench.id, linkId, linkName, kind, ...shown(subject, facts) };
  }

  async browse(benchId: string, owner: string, parent: string | undefined): Promise<BenchNode[]> {
    return [...(await this.using(benchId, owner, (session) => session.browse(parent ?? null)))];
  }

  read(benchId: string, owner: string, nodeId: string): Promise<BenchReading> {
    return this.using(benchId, owner, (session) => session.read(nodeId));
  }

  /** Records values of a session for as long as it lasts. */
  async record(benchId: string, owner: string, wish: RecordingWish): Promise<Recording> {
    const { live, linkName } = this.find(benchId, owner);
    return this.using(benchId, owner, (session) =>
      this.recordings.begin(session, wish, { owner, linkName, ended: live.ended }),
    );
  }

  async describe(benchId: string, owner: string, nodeId: string): Promise<BenchDescribed> {
    const { attributes, references, referenceCount } = await this.using(benchId, owner, (session) =>
      session.describe(nodeId),
    );
    return { nodeId, attributes: [...attributes], references: [...references], referenceCount };
  }

  async matches(benchId: string, owner: string, pattern: string, signal: AbortSignal): Promise<BenchMatches> {
    const read = itemPattern(pattern);
    if (isPatternFault(read)) throw invalid('This is no pattern.', [{ place: 'pattern', says: read.says }]);
    const { nodes, ...told } = await this.using(benchId, owner, (session) => session.matches(read, signal));
    return { nodes: [...nodes], ...told };
  }

  /** What the server has recorded of a node in the last minutes. */
  async history(benchId: string, owner: string, nodeId: string, minutes: number): Promise<BenchHistory> {
    const to = new Date();
    const from = new Date(to.getTime() - minutes * 60_000);
    const { code, values, hasMore } = await this.using(benchId, owner, (session) =>
      moreOf(session).history(nodeId, from, to, mostRecorded),
    );
    return {
      nodeId,
      code,
      status: explainedStatusCode(code),
      from: from.toISOString(),
      to: to.toISOString(),
      values: values.map(({ sourceTimestamp, value, number, code: own }) => ({
        at: sourceTimestamp,
        value,
        number,
        code: own,
      })),
      hasMore,
    };
  }

  /** Listens to events of a node until the returned function is called, in whichever session is there. */
  async listen(benchId: string, owner: string, nodeId: string, hear: EventHearer): Promise<() => void> {
    return this.inEach(benchId, owner, hear.turn, async (session) => {
      const { codes, sendEvents, refreshCode, stop } = await moreOf(session).listen([nodeId], (_, event) => {
        hear.event({ ...event });
      });
      hear.says(listeningWords(codes[0] ?? 'BadUnexpectedError', sendEvents[0] ?? null, refreshCode));
      return () => void stop();
    });
  }

  /** What a value to be written is held to. */
  typed(benchId: string, owner: string, nodeId: string): Promise<BenchTyped> {
    const { writes } = this.find(benchId, owner);
    return this.using(benchId, owner, (session) => writes.typed(session, nodeId));
  }

  write(benchId: string, owner: string, wish: BenchWrite): Promise<BenchWritten> {
    const { writes } = this.find(benchId, owner);
    return this.using(benchId, owner, (session) => writes.write(session, wish));
  }

  undo(benchId: string, owner: string, nodeId: string): Promise<BenchWritten> {
    const { writes } = this.find(benchId, owner);
    return this.using(benchId, owner, (session) => writes.undo(session, nodeId));
  }

  /** Watches these nodes from now on, in whichever session is there. */
  watch(benchId: string, owner: string, wish: BenchWatchWish): Promise<void> {
    const { watched } = this.find(benchId, owner);
    return explained(() => watched.watch(wish));
  }

  /**
   * Tells a page what comes of its sessions, those that are there and those that it opens, until the returned function is
   * called; a session whose page stays away is closed, so that its machine is free.
   */
  hear(holder: BenchHolder, heard: PageHeard): () => void {
    const leavings: (() => void)[] = [];
    const join = (bench: OpenBench): void => {
      leavings.push(this.attend(bench), bench.watched.hear(heard.begin(bench.id)));
      const { signal } = bench.end;
      signal.addEventListener('abort', () => heard.end(bench.id, signal.reason === unused), { once: true });
    };
    const one = { holder, join };
    this.hearing.add(one);
    for (const bench of this.open.values()) if (isOf(holder, bench)) join(bench);
    return () => {
      this.hearing.delete(one);
      for (const leave of leavings) leave();
    };
  }

  /** Begins something in each session of a bench; where it can’t begin in the first one, whoever asked hears why. */
  private inEach(
    benchId: string,
    owner: string,
    turn: (state: SessionState) => void,
    beginIn: (session: BenchSession) => Promise<() => void>,
  ): Promise<() => void> {
    const bench = this.find(benchId, owner);
    return bench.live.inEach(
      (session) => explained(() => beginIn(session)),
      (state) => {
        bench.lastUsed = Date.now();
        turn(state);
      },
    );
  }

  private attend(bench: OpenBench): () => void {
    bench.streams += 1;
    if (bench.leaving) clearTimeout(bench.leaving);
    return () => {
      bench.streams -= 1;
      if (bench.streams > 0) return;
      bench.leaving = setTimeout(() => bench.end.abort(), pageAwayMs).unref();
    };
  }

  close(benchId: string, owner: string): void {
    this.find(benchId, owner).end.abort();
  }

  closeAll(): void {
    clearInterval(this.sweeper);
    for (const bench of this.open.values()) bench.end.abort();
  }

  private find(benchId: string, owner: string): OpenBench {
    const bench = this.open.get(benchId);
    if (!bench || bench.owner !== owner) throw notFound('open bench', benchId);
    bench.lastUsed = Date.now();
    if (!bench.isUsed && bench.leaving) clearTimeout(bench.leaving);
    bench.isUsed = true;
    return bench;
  }

  private async using<Result>(
    benchId: string,
    owner: string,
    use: (session: BenchSession) => Promise<Result>,
  ): Promise<Result> {
    const { session, state } = this.find(benchId, owner).live;
    if (!session) throw conflict(`The session is lost. ${state.says}`.trim(), 'It is taken up again by itself; wait.');
    return explained(() => use(session));
  }

  private sweep(): void {
    for (const bench of this.open.values()) {
      // A page that watches uses its session, even where no value changes.
      const isWatched = bench.watched.isWatching && bench.streams > 0;
      if (!isWatched && Date.now() - bench.lastUsed >= idleMs) bench.end.abort(unused);
    }
  }
}

/** What sessions of OPC UA alone can tell. */
function moreOf({ more }: BenchSession): NonNullable<BenchSession['more']> {
  if (!more)
    throw conflict('Classic Data Access keeps no past values and sends no events.', 'Watch the item, and record it.');
  return more;
}

const isOf = (one: BenchHolder, other: BenchHolder): boolean => one.owner === other.owner && one.page === other.page;
