import { setTimeout as pause } from 'node:timers/promises';
import type { TrustChange } from '@loyal-hinge/core';
import { wayWords } from '@loyal-hinge/core';
import { persist } from '../../database/database.js';
import type { Database } from '../../database/database.js';
import { ProblemError, conflict, notFound } from '../../http/problems.js';
import type { ServerLists } from '../../probe/means.js';
import type { PushManagement } from '../../ua/push-management.js';
import type { PushedLists } from '../../ua/trust-list.js';
import type { Carried } from '../../orders/port.js';
import { changedBytes, differing } from '../lists/change-lists.js';
import { crlsBy } from '../../certificates/crls.js';
import { entriesOf, rejectedSinceBy, listsOf, replaceLists, setUntil } from '../lists/store.js';
import { noteReading } from '../lists/readings.js';
import type { ListedBytes } from '../lists/store.js';
import type { PushDesk } from './desk.js';
import { certificatesBy, clientsHeld } from '../../certificates/store.js';
import { noteRestarts, wayOf } from '../lists/ways.js';

export const pushWords = 'push management';
const comesBackWithinMs = 45_000;
const lookAgainMs = 1000;
/** How long is tried to write down what was read while the database is away. */
const patienceMs = 5 * 60_000;

/** Reads lists and carries changes of lists out, by whichever way there is to them. */
export class TrustCarrier {
  constructor(
    private readonly db: Database,
    private readonly desk: PushDesk,
  ) {}

  /** Reads the lists of a running server, and keeps them. What fails is noted, too. */
  async read(applicationId: string, actor: string, signal?: AbortSignal): Promise<ListedBytes> {
    return this.reading(applicationId, actor, () => this.desk.with(applicationId, readAll, signal));
  }

  /** The same for a check, which holds its machine’s turn already. */
  async listsForCheck(applicationId: string, signal: AbortSignal): Promise<ServerLists> {
    const lists = await this.reading(applicationId, 'check', () =>
      this.desk.withinTurn(applicationId, readAll, signal),
    );
    const entries = await entriesOf(this.db, applicationId);
    return {
      trusted: lists.trusted,
      issuers: lists.issuers,
      crls: [...lists.trustedCrls, ...lists.issuerCrls],
      rejected: lists.rejected,
      by: pushWords,
      rejectedSince: rejectedSinceBy(entries),
    };
  }

  /**
   * Makes changes of one application’s lists count. Nothing is written where they hold already; over push management only
   * the lists that differ are written, a required restart is waited for, and the lists are read again afterwards.
   */
  async change(applicationId: string, changes: readonly TrustChange[], actor: string): Promise<Carried> {
    await this.refuseUnknown(changes);
    const [held, way] = await Promise.all([clientsHeld(this.db, [applicationId]), wayOf(this.db, applicationId)]);
    const carried = held.has(applicationId)
      ? await this.changeHeld(applicationId, changes, actor)
      : way?.way === 'push'
        ? await this.changeOverPush(applicationId, changes, actor)
        : null;
    if (!carried)
      throw conflict(
        `This is changed ${wayWords[way?.way ?? 'unknown']}.`,
        'Take it to the machine, then mark it as done.',
      );
    for (const change of changes)
      if (change.kind === 'list-certificate' && change.list === 'trusted')
        await setUntil(this.db, applicationId, change.thumbprint, change.until);
    return carried;
  }

  /** What is to be listed must be known by its bytes: otherwise nothing would be written, and said to be done. */
  private async refuseUnknown(changes: readonly TrustChange[]): Promise<void> {
    const { certificates, crls } = await this.shelf(changes);
    for (const change of changes) {
      if (change.kind === 'list-certificate' && !certificates.has(change.thumbprint))
        throw notFound('certificate', change.thumbprint);
      if (change.kind === 'list-crl' && !crls.some(({ id }) => id === change.crlId))
        throw notFound('CRL', change.crlId);
    }
  }

  private async reading(applicationId: string, actor: string, read: () => Promise<ListedBytes>): Promise<ListedBytes> {
    try {
      const lists = await read();
      await this.keepRead(applicationId, lists, actor, 'Found when its lists were read.');
      return lists;
    } catch (error) {
      const fault = error instanceof ProblemError ? error.problem.detail : 'The connection was lost.';
      await noteReading(this.db, applicationId, { source: 'tried', by: pushWords, readAt: null, fault });
      throw error;
    }
  }

  private async keepRead(applicationId: string, lists: ListedBytes, actor: string, says: string): Promise<void> {
    await persist(patienceMs, () =>
      this.db.transaction(async (tx) => {
        await replaceLists(tx, applicationId, lists, { actor, says });
        const readAt = new Date().toISOString();
        await noteReading(tx, applicationId, { source: 'tried', by: pushWords, readAt, fault: null, lists });
      }),
    );
  }

  private async changeHeld(applicationId: string, changes: readonly TrustChange[], actor: string): Promise<Carried> {
    const idle = await this.db.transaction(async (tx) => {
      const known = await listsOf(tx, applicationId);
      const ders = (parts: readonly { readonly der: Uint8Array }[]): Uint8Array[] => parts.map(({ der }) => der);
      const before = {
        trusted: ders(known.trusted),
        issuers: ders(known.issuers),
        rejected: ders(known.rejected),
        trustedCrls: ders(known.trustedCrls),
        issuerCrls: ders(known.issuerCrls),
      };
      const shelf = await this.shelf(changes);
      const after = changedBytes(before, changes, shelf);
      await noteReading(tx, applicationId, {
        source: 'tried',
        by: 'the product itself',
        readAt: new Date().toISOString(),
        fault: null,
        lists: after,
      });
      await replaceLists(tx, applicationId, after, { actor, says: 'Changed by Loyal Hinge.' });
      return idleOf(before, changes, shelf);
    });
    return idle.length === changes.length
      ? { says: nothingWritten, restarted: false, idle }
      : { says: 'Its lists are kept here, and changed.', restarted: false, idle };
  }

  private async changeOverPush(
    applicationId: string,
    changes: readonly TrustChange[],
    actor: string,
  ): Promise<Carried> {
    const shelf = await this.shelf(changes);
    const written = await this.desk.with(applicationId, async (push) => {
      const before = await readAll(push);
      const after = changedBytes(before, changes, shelf);
      const lists = differing(before, after).filter((list): list is PushedKey => list !== 'rejected');
      const idle = idleOf(before, changes, shelf);
      if (lists.length === 0) return { before, restarts: false, changed: false, idle };
      const restarts = await push.changeLists(allPushed(before), pushedLists(after, lists));
      if (restarts) await push.applyChanges();
      return { before, restarts, changed: true, idle };
    });
    if (!written.changed) {
      await this.keepRead(applicationId, written.before, actor, 'Found when its lists were read.');
      return { says: nothingWritten, restarted: false, idle: written.idle };
    }
    await noteRestarts(this.db, applicationId, written.restarts);
    const now = await this.readWhenBack(applicationId, written.restarts);
    await this.keepRead(applicationId, now, actor, 'Changed over push management.');
    return {
      says: written.restarts
        ? 'Written over push management; the server was restarted for it, and its lists were read again.'
        : 'Written over push management, and read again.',
      restarted: written.restarts,
      idle: written.idle,
    };
  }

  /** A server that restarts is asked again until it answers, or for too long. */
  private async readWhenBack(applicationId: string, restarts: boolean): Promise<ListedBytes> {
    const until = Date.now() + comesBackWithinMs;
    if (restarts) await pause(lookAgainMs);
    for (;;) {
      try {
        return await this.desk.with(applicationId, readAll);
      } catch (error) {
        if (!restarts || Date.now() > until) throw error;
        await pause(lookAgainMs);
      }
    }
  }

  /** What changes put into lists, by its bytes. */
  private async shelf(changes: readonly TrustChange[]): Promise<Parameters<typeof changedBytes>[2]> {
    const [certificates, crls] = await Promise.all([
      certificatesBy(
        this.db,
        changes.flatMap((change) => ('thumbprint' in change ? [change.thumbprint] : [])),
      ),
      crlsBy(this.db, changes.flatMap(crlsIn)),
    ]);
    return { certificates, crls: [...crls.values()] };
  }
}

/** The CRLs that a change puts into a list or takes out, or puts back instead. */
const crlsIn = (change: TrustChange): readonly string[] => {
  if (change.kind === 'list-crl') return [change.crlId, ...(change.before === null ? [] : [change.before])];
  return change.kind === 'unlist-crl' ? [change.crlId, ...(change.instead === null ? [] : [change.instead])] : [];
};

const nothingWritten = 'Its lists held this already; nothing was written.';

/** Those changes that the lists, as they were, needed not. */
const idleOf = (
  before: ListedBytes,
  changes: readonly TrustChange[],
  shelf: Parameters<typeof changedBytes>[2],
): readonly TrustChange[] =>
  changes.filter((change) => differing(before, changedBytes(before, [change], shelf)).length === 0);

async function readAll(push: PushManagement): Promise<ListedBytes> {
  const { trustedCertificates, trustedCrls, issuerCertificates, issuerCrls } = await push.readLists();
  const rejected = await push.readRejected();
  return { trusted: trustedCertificates, issuers: issuerCertificates, trustedCrls, issuerCrls, rejected };
}

const pushedNames = {
  trusted: 'trustedCertificates',
  issuers: 'issuerCertificates',
  trustedCrls: 'trustedCrls',
  issuerCrls: 'issuerCrls',
} as const;

type PushedKey = keyof typeof pushedNames;

const pushedLists = (lists: ListedBytes, keys: readonly PushedKey[]): Partial<PushedLists> =>
  Object.fromEntries(keys.map((key) => [pushedNames[key], lists[key]]));

const allPushed = (lists: ListedBytes): PushedLists => ({
  trustedCertificates: lists.trusted,
  trustedCrls: lists.trustedCrls,
  issuerCertificates: lists.issuers,
  issuerCrls: lists.issuerCrls,
});
