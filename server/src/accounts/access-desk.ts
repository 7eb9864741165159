import type { ServerAccess } from '@loyal-hinge/core';
import type { AdministratorSessions, Errand } from '../administration/administrator-sessions.js';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { keepCertificate } from '../certificates/store.js';
import type { AccessManagement, ReadAccess } from '../ua/access-management.js';
import { pushedApplications } from '../trust/lists/ways.js';
import { ProblemError, notFound } from '../http/problems.js';
import { findApplication } from '../plant/part.js';
import { keepAccess, keepConnected, noteUnread } from './store.js';

const patienceMs = 60_000;
const mostAtOnce = 8;

const errand: Errand = {
  what: 'The administration',
  ifRefused: 'Check whether the user is an administrator there, and whether the server offers this.',
  lookAgain: 'read its roles and users again to see what holds now',
  elseDo: 'change roles and users at the server itself',
};

/** The desk from which roles and users of running servers are read and changed, as their administrator (Part 18). */
export class AccessDesk {
  /** Servers that are being read, or wait for it. */
  private readonly reading = new Set<string>();

  constructor(
    private readonly db: Database,
    private readonly sessions: Pick<AdministratorSessions, 'with' | 'letsIn'>,
    private readonly events: EventLog,
  ) {}

  /** Reads roles and users, and keeps what was read, or why it could not be. */
  async read(serverId: string, actor: string, signal?: AbortSignal): Promise<void> {
    if ((await findApplication(this.db, serverId))?.kind !== 'server') throw notFound('server', serverId);
    this.reading.add(serverId);
    try {
      const { read, connected } = await this.sessions.with(
        serverId,
        errand,
        async (session) => ({
          read: await session.accessManagement().read(),
          connected: await session.serverSessions().catch(() => null),
        }),
        signal,
      );
      await this.keep(serverId, read, actor);
      if (connected) await persist(patienceMs, () => keepConnected(this.db, serverId, connected));
    } catch (error) {
      if (error instanceof ProblemError) {
        const { detail, remedy } = error.problem;
        await persist(patienceMs, () => noteUnread(this.db, serverId, `${detail} ${remedy}`));
      }
      throw error;
    } finally {
      this.reading.delete(serverId);
      await this.events.tell({ kind: 'accounts-changed', serverId }).catch(() => undefined);
    }
  }

  /** Begins to read all servers that can be read, some at a time; each tells when it is done. @returns how many */
  async readAll(actor: string): Promise<number> {
    const begun = (await pushedApplications(this.db)).filter((serverId) => !this.reading.has(serverId));
    for (const serverId of begun) this.reading.add(serverId);
    const left = [...begun];
    const goOn = async (): Promise<void> => {
      for (let serverId = left.shift(); serverId !== undefined; serverId = left.shift())
        await this.read(serverId, actor).catch(() => undefined);
    };
    for (let line = 0; line < mostAtOnce; line += 1) void goOn();
    return begun.length;
  }

  /** Changes something, and keeps how roles and users stand afterwards. @returns what the change returns */
  async change<Result>(
    serverId: string,
    actor: string,
    use: (management: AccessManagement, before: ServerAccess, user: string) => Promise<Result>,
  ): Promise<Result> {
    const { result, after } = await this.sessions.with(serverId, errand, async (session, user) => {
      const management = session.accessManagement();
      const before = await management.read();
      const result = await use(management, before.access, user);
      return { result, after: await management.read() };
    });
    await this.keep(serverId, after, actor);
    await this.events.tell({ kind: 'accounts-changed', serverId }).catch(() => undefined);
    return result;
  }

  /** Whether the server lets a user in with a password: tried once. */
  letsIn = (serverId: string, userName: string, password: string): Promise<boolean> =>
    this.sessions.letsIn(serverId, errand, userName, password);

  private async keep(serverId: string, { access, certificates }: ReadAccess, actor: string): Promise<void> {
    await persist(patienceMs, () =>
      this.db.transaction(async (tx) => {
        for (const der of certificates) await keepCertificate(tx, der);
        await keepAccess(tx, serverId, access);
        await noteUnread(tx, serverId, null);
        const details = { roles: access.roles.length, users: access.users?.length ?? 0 };
        await appendAudit(tx, { actor, action: 'roles and users read', subject: serverId, details });
      }),
    );
  }
}
