import { sql } from 'drizzle-orm';
import { isDeepStrictEqual } from 'node:util';
import { assess, chooseEndpoint, isPlantFault, noFloor, securityPolicyOf, usualRules, wishOf } from '@loyal-hinge/core';
import type { ChosenEndpoint, Fact, LinkInPlant } from '@loyal-hinge/core';
import type {
  Check,
  CheckDetail,
  HingeEvent,
  LinkBoard,
  LinkDetail,
  LinkFilter,
  LinkRow,
  WriteProof,
} from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { assessmentOf, factsOfCheck } from '../facts/store.js';
import { behindRows } from '../field/behind.js';
import { appendAudit } from '../audit/trail.js';
import { ProblemError, conflict, invalid, notFound } from '../http/problems.js';
import { shownPassword } from '../means/kept-passwords.js';
import { subjectAround } from '../plant/part.js';
import { linksThere } from '../plant/store.js';
import type { SecretStore } from '../secrets/sealing.js';
import { knownTunnels, tunnelOfLink } from '../tunnels/known.js';
import { boardPage, boardRow, idsFitting } from './board.js';
import type { BoardWish } from './board.js';
import { addressesIn } from './check-runner.js';
import type { CheckRunner } from './check-runner.js';
import type { CheckQueue } from './queue.js';
import {
  addChecks,
  addWritingCheck,
  cancelQueued,
  checksOfLink,
  findCheck,
  moveCheck,
  openChecks,
  runningChecks,
  subjectOfCheck,
} from './store.js';

/** More than so many checks at once are told by one event. */
const toldOneByOne = 100;
const shownChecks = 30;

/** Links as they are shown, and the checks that are asked for. */
export class Links {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly queue: Pick<CheckQueue, 'add'>,
    private readonly runner: Pick<CheckRunner, 'cancel'>,
    private readonly events: EventLog,
  ) {}

  rows = (wish: BoardWish): Promise<LinkBoard> => boardPage(this.db, wish);

  async row(linkId: string): Promise<LinkRow> {
    const row = await boardRow(this.db, linkId);
    if (!row) throw notFound('link', linkId);
    return row;
  }

  async detail(linkId: string): Promise<LinkDetail> {
    const [subject, kept, checks, shown, tunnels] = await Promise.all([
      this.subject(linkId),
      assessmentOf(this.db, linkId),
      checksOfLink(this.db, linkId, shownChecks),
      this.row(linkId),
      knownTunnels(this.db),
    ]);
    const way = tunnelOfLink(tunnels, linkId)?.way ?? null;
    const facts = kept ? await factsOfCheck(this.db, kept.checkId) : [];
    const checked = kept ? await this.asChecked(kept.checkId, subject, facts) : subject;
    return {
      link: subject.link as LinkDetail['link'],
      client: shownEnd(subject.client, subject.clientMachine, shown.clientZone),
      server: shownEnd(subject.server, subject.serverMachine, shown.serverZone),
      changedSince: !isDeepStrictEqual(checked.link, subject.link),
      assessment: assess(checked, facts, usualRules, kept?.at ?? new Date().toISOString()) as LinkDetail['assessment'],
      checks,
      tunnel: way && { id: way.tunnel.id, name: way.tunnel.name, ...way.entrance },
      passwordState: (await shownPassword(this.db, this.secrets, subject)).passwordState,
      usableEndpoints: usableEndpoints(subject, facts),
      behind: await behindRows(this.db, subject, facts),
    };
  }

  async checkDetail(checkId: string): Promise<CheckDetail> {
    const check = await findCheck(this.db, checkId);
    if (!check) throw notFound('check', checkId);
    const [now, facts] = await Promise.all([this.subject(check.linkId), factsOfCheck(this.db, checkId)]);
    const subject = await this.asChecked(checkId, now, facts);
    const assessment = assess(
      subject,
      facts,
      usualRules,
      check.endedAt ?? new Date().toISOString(),
    ) as CheckDetail['assessment'];
    return { check, assessment, facts };
  }

  /** The link as it was when the check began, with the machines that its facts may speak of. */
  private async asChecked(checkId: string, now: LinkInPlant, facts: readonly Fact[]): Promise<LinkInPlant> {
    const met = await subjectAround(this.db, now.link.id, addressesIn(facts));
    return { ...now, ...(isPlantFault(met) ? {} : met), ...(await subjectOfCheck(this.db, checkId)) };
  }

  /** Asks for checks; a link that has an open check already keeps that one. */
  async ask(linkIds: readonly string[], askedBy: string): Promise<Check[]> {
    const wanted = [...new Set(linkIds)];
    const known = new Set(await linksThere(this.db, wanted));
    const missing = wanted.find((linkId) => !known.has(linkId));
    if (missing !== undefined) throw notFound('link', missing);
    return this.enqueue(wanted, askedBy, () => true);
  }

  /** The same for all links that fit. */
  async askFitting(filter: LinkFilter, askedBy: string): Promise<Check[]> {
    return this.enqueue(await idsFitting(this.db, filter), askedBy, () => true);
  }

  /**
   * Asks for checks that begin after this moment: one that runs already can’t prove what was changed meanwhile.
   * Links that the plant no longer has are passed over.
   */
  async askAfresh(linkIds: readonly string[], askedBy: string): Promise<Check[]> {
    return this.enqueue(await linksThere(this.db, linkIds), askedBy, (open) => open.state === 'queued');
  }

  /**
   * Asks for a check that also writes items of a link with the value that they have, and reads them back.
   * @throws a problem for items that the link does not need to write
   */
  async askToWrite(linkId: string, { paths, why }: WriteProof, by: string): Promise<Check> {
    const { link } = await this.subject(linkId);
    const needed = new Set(link.needs.filter(({ uses }) => uses.includes('write')).map(({ path }) => path));
    const faults = paths.flatMap((path, index) =>
      needed.has(path) ? [] : [{ place: `paths.${index}`, says: `${link.name} does not need to write ${path}.` }],
    );
    if (faults.length > 0) throw invalid('Only what a link needs to write is written.', faults);
    const check = await this.db.transaction(async (tx) => {
      const details = { paths, why };
      await appendAudit(tx, { actor: by, action: 'write proof asked for', subject: linkId, details });
      return addWritingCheck(tx, linkId, { paths, by, why });
    });
    await this.queue.add([check.id]);
    await this.events.tell({ kind: 'check-asked', checkId: check.id, linkId });
    return check;
  }

  private async enqueue(
    wanted: readonly string[],
    askedBy: string,
    mayKeep: (open: Check) => boolean,
  ): Promise<Check[]> {
    const open = await openChecks(this.db, wanted);
    const kept = wanted.flatMap((linkId) => open.get(linkId) ?? []).filter(mayKeep);
    const covered = new Set(kept.map((check) => check.linkId));
    const fresh = await addChecks(
      this.db,
      wanted.filter((linkId) => !covered.has(linkId)),
      askedBy,
    );
    await this.queue.add(fresh.map((check) => check.id));
    await this.tellEach(fresh.map((check) => ({ kind: 'check-asked', checkId: check.id, linkId: check.linkId })));
    return [...kept, ...fresh];
  }

  /** Cancels all checks that have not ended. @returns how many there were */
  async cancelAll(): Promise<number> {
    const endedAt = new Date().toISOString();
    const reason = 'The check was cancelled before it began.';
    const cancelled = await cancelQueued(this.db, { endedAt, reason });
    await this.tellEach(
      cancelled.map(({ id, linkId }) => ({
        kind: 'check-ended',
        checkId: id,
        linkId,
        state: 'cancelled',
        found: null,
      })),
    );
    const running = await runningChecks(this.db);
    for (const checkId of running) await this.cancel(checkId).catch(ifOver);
    return cancelled.length + running.length;
  }

  /** A few are told one by one; of many, everybody looks again. */
  private async tellEach(events: readonly HingeEvent[]): Promise<void> {
    if (events.length > toldOneByOne) await this.events.tell({ kind: 'checks-changed', checks: events.length });
    else for (const event of events) await this.events.tell(event);
  }

  async cancel(checkId: string): Promise<Check> {
    const check = await findCheck(this.db, checkId);
    if (!check) throw notFound('check', checkId);
    if (this.runner.cancel(checkId)) return check;
    if (check.state === 'running') {
      await this.db.execute(sql`select pg_notify('hinge', ${`cancel ${checkId}`})`);
      return check;
    }
    const cancelled = await moveCheck(this.db, checkId, ['queued'], {
      state: 'cancelled',
      endedAt: new Date().toISOString(),
      reason: 'The check was cancelled before it began.',
    });
    if (!cancelled) throw conflict('This check has ended already.', 'Nothing to do.');
    await this.events.tell({ kind: 'check-ended', checkId, linkId: check.linkId, state: 'cancelled', found: null });
    return cancelled;
  }

  async subject(linkId: string): Promise<LinkInPlant> {
    const subject = await subjectAround(this.db, linkId);
    if (isPlantFault(subject)) throw notFound('link', linkId);
    return subject;
  }
}

/** It may have ended by itself meanwhile. */
function ifOver(error: unknown): void {
  if (!(error instanceof ProblemError)) throw error;
}

function shownEnd(
  application: { id: string; name: string; applicationUri: string },
  machine: LinkInPlant['clientMachine'],
  zone: string,
): LinkDetail['client'] {
  return {
    applicationId: application.id,
    application: application.name,
    applicationUri: application.applicationUri,
    machine: machine.name,
    zone,
    hostNames: [...machine.hostNames],
    addresses: [...machine.addresses],
  };
}

/** What both sides have, without regard to what was chosen. */
function usableEndpoints(subject: LinkInPlant, facts: readonly Fact[]): ChosenEndpoint[] {
  const listing = facts.findLast((fact) => fact.kind === 'endpoints');
  if (listing?.kind !== 'endpoints' || listing.outcome !== 'listed') return [];
  const floor = facts.findLast((fact) => fact.kind === 'entry-floor')?.floor ?? noFloor;
  const wish = { ...wishOf(subject, floor), wanted: null };
  const found = new Map<string, ChosenEndpoint>();
  for (const endpoint of listing.endpoints) {
    if (!chooseEndpoint([endpoint], wish).chosen) continue;
    const policy = securityPolicyOf(endpoint.securityPolicyUri)?.name;
    if (policy) found.set(`${policy} ${endpoint.securityMode}`, { policy, mode: endpoint.securityMode });
  }
  return [...found.values()];
}
