import { sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { isDeepStrictEqual } from 'node:util';
import { assess, chooseEndpoint, isPlantFault, linkInPlant, securityPolicyOf, usualRules } from '@loyal-hinge/core';
import type { ChosenEndpoint, Fact, LinkInPlant, Plant } from '@loyal-hinge/core';
import type { Check, CheckDetail, LinkDetail } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import type { SecretStore } from '../database/sealing.js';
import type { EventLog } from '../events/event-log.js';
import type { HeavyWork } from '../heavy/heavy-work.js';
import { conflict, notFound } from '../http/problems.js';
import type { AnswerText } from '../http/serve.js';
import { linkIdsIn, readPlant } from '../plant/store.js';
import type { CheckQueue } from './queue.js';
import { shownPassword } from './kept-passwords.js';
import type { CheckRunner } from './check-runner.js';
import { endsOf } from './rows.js';
import {
  addCheck,
  assessmentOf,
  checksOfLink,
  factsOfCheck,
  findCheck,
  moveCheck,
  openChecks,
  subjectOfCheck,
} from './store.js';

const shownChecks = 30;

/** Links as they are shown, and the checks that are asked for. */
export class Links {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly heavy: Pick<HeavyWork, 'run'>,
    private readonly queue: Pick<CheckQueue, 'add'>,
    private readonly runner: Pick<CheckRunner, 'cancel'>,
    private readonly events: EventLog,
  ) {}

  rows = (signal: AbortSignal): Promise<AnswerText<'links'>> => this.heavy.run('linkRows', undefined, signal);

  async detail(linkId: string): Promise<LinkDetail> {
    const [plant, kept, checks] = await Promise.all([
      readPlant(this.db, [linkId]),
      assessmentOf(this.db, linkId),
      checksOfLink(this.db, linkId, shownChecks),
    ]);
    const subject = subjectOf(plant, linkId);
    const facts = kept ? await factsOfCheck(this.db, kept.checkId) : [];
    const checked = kept ? await this.asChecked(kept.checkId, subject) : subject;
    const ends = endsOf(plant);
    return {
      link: subject.link as LinkDetail['link'],
      client: shownEnd(subject.client, subject.clientMachine, ends.get(subject.client.id)?.zone ?? ''),
      server: shownEnd(subject.server, subject.serverMachine, ends.get(subject.server.id)?.zone ?? ''),
      changedSince: !isDeepStrictEqual(checked.link, subject.link),
      assessment: assess(checked, facts, usualRules, kept?.at ?? new Date().toISOString()) as LinkDetail['assessment'],
      checks,
      passwordState: (await shownPassword(this.db, this.secrets, subject)).passwordState,
      usableEndpoints: usableEndpoints(subject, facts),
    };
  }

  async checkDetail(checkId: string): Promise<CheckDetail> {
    const check = await findCheck(this.db, checkId);
    if (!check) throw notFound('check', checkId);
    const [plant, facts] = await Promise.all([readPlant(this.db, [check.linkId]), factsOfCheck(this.db, checkId)]);
    const subject = await this.asChecked(checkId, subjectOf(plant, check.linkId));
    const assessment = assess(
      subject,
      facts,
      usualRules,
      check.endedAt ?? new Date().toISOString(),
    ) as CheckDetail['assessment'];
    return { check, assessment, facts };
  }

  /** The link as it was when the check began. */
  private async asChecked(checkId: string, now: LinkInPlant): Promise<LinkInPlant> {
    return { ...now, ...(await subjectOfCheck(this.db, checkId)) };
  }

  /** Asks for checks; a link that has an open check already keeps that one. */
  async ask(linkIds: readonly string[] | null, askedBy: string): Promise<Check[]> {
    const known = new Set(await linkIdsIn(this.db));
    const wanted = [...new Set(linkIds ?? known)];
    const missing = wanted.find((linkId) => !known.has(linkId));
    if (missing !== undefined) throw notFound('link', missing);
    return this.enqueue(wanted, askedBy, () => true);
  }

  /**
   * Asks for checks that begin after this moment: one that runs already can’t prove what was changed meanwhile.
   * Links that the plant no longer has are passed over.
   */
  async askAfresh(linkIds: readonly string[], askedBy: string): Promise<Check[]> {
    const asked = new Set(linkIds);
    const wanted = (await linkIdsIn(this.db)).filter((id) => asked.has(id));
    return this.enqueue(wanted, askedBy, (open) => open.state === 'queued');
  }

  private async enqueue(
    wanted: readonly string[],
    askedBy: string,
    mayKeep: (open: Check) => boolean,
  ): Promise<Check[]> {
    const open = await openChecks(this.db);
    const kept = wanted.flatMap((linkId) => open.get(linkId) ?? []).filter(mayKeep);
    const covered = new Set(kept.map((check) => check.linkId));
    const fresh = await this.db.transaction(async (tx) => {
      const added: Check[] = [];
      for (const linkId of wanted)
        if (!covered.has(linkId)) added.push(await addCheck(tx, { id: randomUUID(), linkId, askedBy }));
      return added;
    });
    await this.queue.add(fresh.map((check) => check.id));
    for (const check of fresh) await this.events.tell({ kind: 'check-asked', checkId: check.id, linkId: check.linkId });
    return [...kept, ...fresh];
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
    return subjectOf(await readPlant(this.db, [linkId]), linkId);
  }
}

function subjectOf(plant: Plant, linkId: string): LinkInPlant {
  const subject = linkInPlant(plant, linkId);
  if (isPlantFault(subject)) throw notFound('link', linkId);
  return subject;
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
  const found = new Map<string, ChosenEndpoint>();
  for (const endpoint of listing.endpoints) {
    if (!chooseEndpoint([endpoint], subject.client, null).chosen) continue;
    const policy = securityPolicyOf(endpoint.securityPolicyUri)?.name;
    if (policy) found.set(`${policy} ${endpoint.securityMode}`, { policy, mode: endpoint.securityMode });
  }
  return [...found.values()];
}
