import { assess, explainedStatusCode, isPlantFault, signInNameOf, usualRules } from '@loyal-hinge/core';
import type { LinkInPlant } from '@loyal-hinge/core';
import { signInGuard } from '../accounts/tries/guard.js';
import { keepCertificate, noteShown } from '../certificates/store.js';
import type { Database } from '../database/database.js';
import { conflict } from '../http/problems.js';
import { meansOfLink, serverCertificateIn } from '../means/means-of-link.js';
import { findApplication, subjectOf } from '../plant/part.js';
import { memoryLog } from '../probe/memory-log.js';
import { walkLink } from '../probe/walk-link.js';
import type { MachineLocks } from '../processes/machine-locks.js';
import type { SecretStore } from '../secrets/sealing.js';
import { pushLink } from '../trust/lists/push-link.js';
import { wayOf } from '../trust/lists/ways.js';
import { CallRefusal } from '../ua/call-method.js';
import type { UaSession } from '../ua/session.js';

const patienceMs = 40_000;

/** What an administrator’s session is for, in words. */
export interface Errand {
  /** Such as “Push management”. */
  readonly what: string;
  /** In ms, where it takes longer than a few calls do. */
  readonly mayTakeMs?: number;
  /** It lasts as long as a person likes: whoever waits is told. */
  readonly byPerson?: boolean;
  /** What may be the matter where a call is refused, and what holds then. */
  readonly ifRefused: string;
  /** How to see what holds where it broke off in the middle. */
  readonly lookAgain: string;
  /** What else can be done where the server can’t be reached. */
  readonly elseDo: string;
}

/** @param user the name by which the session is signed in */
type UseAsAdministrator<Result> = (session: UaSession, user: string) => Promise<Result>;

/** Opens sessions of an administrator on servers: by the access that is kept for push management. */
export class AdministratorSessions {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly locks: Pick<MachineLocks, 'take'>,
  ) {}

  /**
   * Hands a session over; everything is closed afterwards. Waits for its turn, since a machine is dialled by one at a time.
   * @throws a problem where the server can’t be reached, or refuses what is called
   */
  async with<Result>(
    serverId: string,
    errand: Errand,
    use: UseAsAdministrator<Result>,
    signal?: AbortSignal,
  ): Promise<Result> {
    const subject = await this.subject(serverId);
    const wish = {
      holder: `${errand.what} of ${subject.server.name}`,
      byPerson: errand.byPerson ?? false,
      ...(signal ? { signal } : {}),
    };
    return this.locks.take(subject.serverMachine.id, wish, (lost) =>
      this.now(subject, errand, use, signal ? AbortSignal.any([signal, lost]) : lost),
    );
  }

  /** The same without waiting for a turn: for a check, which has it already. */
  async withinTurn<Result>(
    serverId: string,
    errand: Errand,
    use: UseAsAdministrator<Result>,
    signal?: AbortSignal,
  ): Promise<Result> {
    return this.now(await this.subject(serverId), errand, use, signal);
  }

  /** Whether the server lets another user in with a password, from the administrator’s client: tried once, and counted. */
  async letsIn(serverId: string, errand: Errand, userName: string, password: string): Promise<boolean> {
    const administrator = await this.subject(serverId);
    const link = { ...administrator.link, identity: { kind: 'user' as const, userName } };
    const subject = { ...administrator, link };
    const wish = { holder: `${errand.what} of ${subject.server.name}` };
    return this.locks.take(subject.serverMachine.id, wish, async (lost) => {
      const signIns = signInGuard(this.db, this.secrets, subject, password);
      const means = { ...(await meansOfLink(this.db, this.secrets, subject)), password, keptFor: null, signIns };
      let isIn = false;
      await walkLink(
        subject,
        { ...means, readServerLists: null },
        memoryLog(),
        AbortSignal.any([lost, AbortSignal.timeout(patienceMs)]),
        () => {
          isIn = true;
          return Promise.resolve();
        },
      );
      return isIn;
    });
  }

  private async now<Result>(
    subject: LinkInPlant,
    errand: Errand,
    use: UseAsAdministrator<Result>,
    signal: AbortSignal | undefined,
  ): Promise<Result> {
    const means = { ...(await meansOfLink(this.db, this.secrets, subject)), readServerLists: null };
    const limit = AbortSignal.timeout(errand.mayTakeMs ?? patienceMs);
    const seen: Uint8Array[] = [];
    const log = memoryLog((der) => seen.push(der));
    let outcome: { readonly result: Result } | null = null;
    let fault: unknown = null;
    await walkLink(subject, means, log, signal ? AbortSignal.any([signal, limit]) : limit, async (session) => {
      try {
        outcome = { result: await use(session, signInNameOf(subject.link.identity)) };
      } catch (error) {
        fault = error;
      }
    });
    await this.noteShown(subject, log.facts, seen);
    if (outcome) return (outcome as { readonly result: Result }).result;
    throw fault === null ? unreachable(subject, errand, log.facts) : refused(subject, errand, fault);
  }

  /** What the server shows is known of it from then on. */
  private async noteShown(
    { server }: LinkInPlant,
    facts: Parameters<typeof serverCertificateIn>[0],
    seen: readonly Uint8Array[],
  ): Promise<void> {
    const shown = serverCertificateIn(facts);
    if (!shown?.applicationUris.includes(server.applicationUri)) return;
    for (const der of seen) await keepCertificate(this.db, der);
    await noteShown(this.db, server.id, shown.thumbprint);
  }

  private async subject(serverId: string): Promise<LinkInPlant> {
    const [server, way] = await Promise.all([findApplication(this.db, serverId), wayOf(this.db, serverId)]);
    const link = way ? pushLink(way, server?.name ?? serverId) : null;
    const subject = link ? await subjectOf(this.db, link) : null;
    if (!subject || isPlantFault(subject))
      throw conflict(
        `It is not known how push management of ${server?.name ?? serverId} is reached.`,
        'Set it on the Trust page, under the server’s name.',
      );
    return subject;
  }
}

function unreachable(subject: LinkInPlant, { what, elseDo }: Errand, facts: Parameters<typeof assess>[1]): Error {
  const { headline } = assess(subject, facts, usualRules, new Date().toISOString());
  return conflict(`${what} of ${subject.server.name} can’t be reached. ${headline}`, `Mend that first, or ${elseDo}.`);
}

function refused({ server }: LinkInPlant, { ifRefused, lookAgain }: Errand, fault: unknown): Error {
  if (fault instanceof CallRefusal)
    return conflict(
      `${server.name} refused ${fault.during}: ${explainedStatusCode(fault.code)}`,
      fault.isPartlyDone ? `Some of it was done before: ${lookAgain}.` : ifRefused,
    );
  return fault instanceof Error && 'problem' in fault
    ? fault
    : conflict(
        `The connection to ${server.name} was lost.`,
        `${lookAgain.charAt(0).toUpperCase()}${lookAgain.slice(1)}.`,
      );
}
