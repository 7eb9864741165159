import type { Logger } from 'pino';
import { byNumber, explainedStatusCode } from '@loyal-hinge/core';
import type { ListenWish, ServerReportsView } from '@loyal-hinge/contract';
import type { AdministratorSessions, Errand } from '../administration/administrator-sessions.js';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { ProblemError, conflict, notFound } from '../http/problems.js';
import { findApplication } from '../plant/part.js';
import { Newest } from '../processes/newest.js';
import type { HeardAuditEvent } from '../ua/audit-events.js';
import type { UaSession } from '../ua/session.js';
import { untilLost } from '../ua/until-lost.js';
import { addReports, reportsOf } from './store.js';

const patienceMs = 60_000;
/** What came is written down so often. */
const gatherMs = 500;
/** Where it floods, the newest wait. */
const mostWaiting = 5000;
const minuteMs = 60_000;
/** To open the session, and to close it. */
const aroundMs = 60_000;

interface Listening {
  readonly askedBy: string;
  readonly since: string;
  readonly until: string;
  readonly end: AbortController;
  heard: number;
  /** Came faster than they could be written down. */
  skipped: number;
  says: string;
}

const errandFor = (minutes: number): Errand => ({
  what: 'Listening to audit events',
  byPerson: true,
  mayTakeMs: minutes * minuteMs + aroundMs,
  ifRefused: 'Check whether the user is an administrator there, and whether the server sends audit events.',
  lookAgain: 'listen again',
  elseDo: 'read the server’s own log',
});

/** Listens to what servers say of themselves, as their administrator, for as long as somebody has asked for. */
export class ServerListening {
  private readonly current = new Map<string, Listening>();
  private readonly ended = new Map<string, NonNullable<ServerReportsView['ended']>>();
  private readonly work = new Set<Promise<void>>();

  constructor(
    private readonly db: Database,
    private readonly sessions: Pick<AdministratorSessions, 'with'>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  async view(serverId: string): Promise<ServerReportsView> {
    await this.expectServer(serverId);
    const current = this.current.get(serverId);
    return {
      ...(await reportsOf(this.db, serverId)),
      listening: current
        ? {
            askedBy: current.askedBy,
            since: current.since,
            until: current.until,
            heard: current.heard,
            says: saysOf(current),
          }
        : null,
      ended: this.ended.get(serverId) ?? null,
    };
  }

  async begin(serverId: string, { minutes }: ListenWish, actor: string): Promise<ServerReportsView> {
    await this.expectServer(serverId);
    if (this.current.has(serverId))
      throw conflict('This server is listened to already.', 'End that first, or look at what comes.');
    const now = Date.now();
    const listening: Listening = {
      askedBy: actor,
      since: new Date(now).toISOString(),
      until: new Date(now + minutes * minuteMs).toISOString(),
      end: new AbortController(),
      heard: 0,
      skipped: 0,
      says: 'The session is being opened …',
    };
    this.current.set(serverId, listening);
    try {
      await this.db.transaction((tx) =>
        appendAudit(tx, { actor, action: 'listening begun', subject: serverId, details: { minutes } }),
      );
    } catch (error) {
      this.current.delete(serverId);
      throw error;
    }
    const work = this.run(serverId, listening, minutes).finally(() => this.work.delete(work));
    this.work.add(work);
    return this.view(serverId);
  }

  stop(serverId: string): void {
    const current = this.current.get(serverId);
    if (!current) throw conflict('Nobody listens to this server.', 'There is nothing to end.');
    current.end.abort(new Error('it was ended.'));
  }

  /** Ends all listening; called before the server stops. */
  async settle(): Promise<void> {
    for (const { end } of this.current.values()) end.abort(new Error('the server stops.'));
    await Promise.all(this.work);
  }

  private async run(serverId: string, listening: Listening, minutes: number): Promise<void> {
    const { end } = listening;
    const over = setTimeout(() => end.abort(new Error('the time was over.')), minutes * minuteMs);
    let says: string | null;
    try {
      says = await this.sessions.with(
        serverId,
        errandFor(minutes),
        (session) => this.listenIn(session, serverId, listening),
        // Whoever is over before the session is there waits for nothing any more.
        end.signal,
      );
    } catch (error) {
      if (end.signal.aborted) says = null;
      else if (error instanceof ProblemError) says = `${error.problem.detail} ${error.problem.remedy ?? ''}`.trim();
      else {
        says = 'The server met an error.';
        this.logger.error({ err: error, serverId }, 'listening to audit events failed');
      }
    }
    clearTimeout(over);
    this.current.delete(serverId);
    this.ended.set(serverId, { at: new Date().toISOString(), says: says ?? saidOf(end.signal) });
    await this.tell(serverId);
  }

  /** @returns why it ended; null: it was ended */
  private async listenIn(session: UaSession, serverId: string, listening: Listening): Promise<string | null> {
    const waiting = new Newest<HeardAuditEvent>(mostWaiting);
    const { code, isAuditing, stop } = await session.listenToAudit((event) => waiting.push(event));
    if (code !== 'Good') return `It can’t be listened to. ${explainedStatusCode(code)}`;
    listening.says =
      isAuditing === false ? 'The server says of itself that it sends no audit events (Auditing).' : 'Listening.';
    await this.tell(serverId);
    const write = async (): Promise<void> => {
      const { items, skipped } = waiting.take();
      if (items.length === 0) return;
      const heardAt = new Date().toISOString();
      await persist(patienceMs, () => this.db.transaction((tx) => addReports(tx, serverId, items, heardAt)));
      listening.heard += items.length;
      listening.skipped += skipped;
      await this.tell(serverId);
    };
    let writing = Promise.resolve();
    const failed = new AbortController();
    const writeNext = (): Promise<void> =>
      (writing = writing.then(write).catch((error: unknown) => failed.abort(error)));
    const timer = setInterval(() => void writeNext(), gatherMs);
    await untilLost(session, AbortSignal.any([listening.end.signal, failed.signal]));
    clearInterval(timer);
    await stop();
    await writeNext();
    if (failed.signal.aborted) return 'What was heard could not be written down.';
    return listening.end.signal.aborted ? null : 'The session was lost.';
  }

  private async expectServer(serverId: string): Promise<void> {
    if ((await findApplication(this.db, serverId))?.kind !== 'server') throw notFound('server', serverId);
  }

  private async tell(serverId: string): Promise<void> {
    await this.events.tell({ kind: 'reports-changed', serverId }).catch(() => undefined);
  }
}

const saidOf = ({ reason }: AbortSignal): string => {
  const text = reason instanceof Error ? reason.message : 'it was ended.';
  return text.charAt(0).toUpperCase() + text.slice(1);
};

const saysOf = ({ says, skipped }: Listening): string =>
  skipped === 0 ? says : `${says} ${byNumber(skipped, '# event came', '# events came')} too fast to be kept.`;
