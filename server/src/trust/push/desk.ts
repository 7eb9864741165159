import { assess, explainedStatusCode, isPlantFault, usualRules } from '@loyal-hinge/core';
import type { Fact, FactBody, FactSource, LinkInPlant } from '@loyal-hinge/core';
import type { Database } from '../../database/database.js';
import type { SecretStore } from '../../secrets/sealing.js';
import { conflict } from '../../http/problems.js';
import { walkLink } from '../../probe/walk-link.js';
import { meansOfLink, serverCertificateIn } from '../../means/means-of-link.js';
import type { MachineLocks } from '../../processes/machine-locks.js';
import { findApplication, subjectOf } from '../../plant/part.js';
import { PushRefusal } from '../../ua/push-management.js';
import type { PushManagement } from '../../ua/push-management.js';
import { keepCertificate, noteShown } from '../../certificates/store.js';
import { wayOf } from '../lists/ways.js';
import { pushLink } from '../lists/push-link.js';

const patienceMs = 40_000;

/** The desk from which the lists of running servers are read and changed, over push management. */
export class PushDesk {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly locks: Pick<MachineLocks, 'take'>,
  ) {}

  /**
   * Opens an administrator’s session on a server and hands its push management over; everything is closed afterwards.
   * Waits for its turn, since a machine is dialled by one at a time.
   */
  async with<Result>(
    serverId: string,
    use: (push: PushManagement) => Promise<Result>,
    signal?: AbortSignal,
  ): Promise<Result> {
    const subject = await this.subject(serverId);
    const wish = { holder: `push management of ${subject.server.name}`, ...(signal ? { signal } : {}) };
    return this.locks.take(subject.serverMachine.id, wish, (lost) =>
      this.now(subject, use, signal ? AbortSignal.any([signal, lost]) : lost),
    );
  }

  /** The same without waiting for a turn: for a check, which has it already. */
  async withinTurn<Result>(
    serverId: string,
    use: (push: PushManagement) => Promise<Result>,
    signal?: AbortSignal,
  ): Promise<Result> {
    return this.now(await this.subject(serverId), use, signal);
  }

  private async now<Result>(
    subject: LinkInPlant,
    use: (push: PushManagement) => Promise<Result>,
    signal: AbortSignal | undefined,
  ): Promise<Result> {
    const means = { ...(await meansOfLink(this.db, this.secrets, subject)), readServerLists: null };
    const limit = AbortSignal.timeout(patienceMs);
    const facts: Fact[] = [];
    const seen: Uint8Array[] = [];
    let outcome: { readonly result: Result } | null = null;
    let fault: unknown = null;
    await walkLink(
      subject,
      means,
      logInto(facts, seen),
      signal ? AbortSignal.any([signal, limit]) : limit,
      async (session) => {
        try {
          outcome = { result: await use(session.pushManagement()) };
        } catch (error) {
          fault = error;
        }
      },
    );
    await this.noteShown(subject, facts, seen);
    if (outcome) return (outcome as { readonly result: Result }).result;
    throw fault === null ? unreachable(subject, facts) : refused(subject, fault);
  }

  /** What the server shows is known of it from then on. */
  private async noteShown({ server }: LinkInPlant, facts: readonly Fact[], seen: readonly Uint8Array[]): Promise<void> {
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

const logInto = (facts: Fact[], seen: Uint8Array[]) => ({
  begin: () => undefined,
  keep: (der: Uint8Array) => void seen.push(der),
  note: (body: FactBody, source: FactSource = 'tried'): Fact => {
    const fact: Fact = { ...body, id: `push/${facts.length + 1}`, source, at: new Date().toISOString() };
    facts.push(fact);
    return fact;
  },
});

function unreachable(subject: LinkInPlant, facts: readonly Fact[]): Error {
  const { headline } = assess(subject, facts, usualRules, new Date().toISOString());
  return conflict(
    `Push management of ${subject.server.name} can’t be reached. ${headline}`,
    'Mend that first, or change the lists at the machine.',
  );
}

function refused({ server }: LinkInPlant, fault: unknown): Error {
  if (fault instanceof PushRefusal)
    return conflict(
      `${server.name} refused ${fault.during}: ${explainedStatusCode(fault.code)}`,
      fault.isPartlyDone
        ? 'Some of it was done before: read its lists again to see what holds now.'
        : 'Check whether the user may change trust lists there, and whether it offers this. The lists are as they were.',
    );
  return fault instanceof Error && 'problem' in fault
    ? fault
    : conflict(`The connection to ${server.name} was lost.`, 'Read its lists again to see what holds now.');
}
