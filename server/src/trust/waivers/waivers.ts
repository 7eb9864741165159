import type { AnswerOf, GiveWaiver, WaiverView } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database, Queryable } from '../../database/database.js';
import type { EventLog } from '../../events/event-log.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { wantsAnother } from '../../proposals/wants-another.js';
import { findApplication, namesOf } from '../../plant/part.js';
import { propose } from '../../proposals/store.js';
import { findCertificate } from '../../certificates/store.js';
import { addWaiver, endWaiver, findWaiver, waiversFor, waiversThatAreOver } from './store.js';
import type { KeptWaiver } from './store.js';

const longestMs = 366 * 86_400_000;
/** Who ends a waiver when nobody does. */
export const byItself = 'its date';

/** An application, and a certificate that it meets. */
export interface Met {
  readonly holderId: string;
  readonly thumbprint: string;
}

/** Steps of the validation that somebody answers for, until a date (Part 4 §6.1.3: which error may be suppressed). */
export class Waivers {
  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
    /** Checks the links afresh on which an application meets a certificate. */
    private readonly checkThoseThatMeet: (met: Met, actor: string) => Promise<unknown>,
  ) {}

  /** Where the plant wants a second person, it waits for one as a proposal. */
  async ask(wish: GiveWaiver, actor: string): Promise<AnswerOf<'giveWaiver'>> {
    if (!(await wantsAnother(this.db))) return { waiver: await this.give(wish, actor), waitsAs: null };
    await this.refuseUnfit(wish);
    const holder = (await findApplication(this.db, wish.holderId))?.name ?? wish.holderId;
    const title = `Let ${holder} skip “${wish.step}” for one certificate`;
    const says = [`Certificate ${wish.thumbprint}.`, `Until ${wish.until.slice(0, 10)}.`, `Why: ${wish.why}`];
    return { waiver: null, waitsAs: await propose(this.db, { body: { kind: 'waiver', wish }, title, says }, actor) };
  }

  private async refuseUnfit(wish: GiveWaiver): Promise<void> {
    const until = Date.parse(wish.until);
    if (until <= Date.now()) throw badUntil('This date has passed.');
    if (until > Date.now() + longestMs)
      throw badUntil('A waiver lasts for a year at most; then it is looked at again.');
    if (!(await findApplication(this.db, wish.holderId))) throw notFound('application', wish.holderId);
    if (!(await findCertificate(this.db, wish.thumbprint))) throw notFound('certificate', wish.thumbprint);
  }

  async give(wish: GiveWaiver, actor: string): Promise<WaiverView> {
    await this.refuseUnfit(wish);
    const id = await this.db.transaction(async (tx) => {
      const open = (await waiversFor(tx, wish.thumbprint)).find(
        ({ holderId, step, endedAt }) => holderId === wish.holderId && step === wish.step && endedAt === null,
      );
      if (open)
        throw conflict(
          `The step “${wish.step}” is waived there already, until ${new Date(open.until).toISOString()}.`,
          'Withdraw that waiver first.',
        );
      const { holderId: subject, ...details } = wish;
      await appendAudit(tx, { actor, action: 'step waived', subject, details });
      return addWaiver(tx, { ...wish, givenBy: actor });
    });
    await this.counts(wish, actor);
    return this.one(id);
  }

  async takeBack(id: number, actor: string): Promise<WaiverView> {
    const kept = await findWaiver(this.db, id);
    if (!kept) throw notFound('waiver', String(id));
    if (!(await this.end(kept, actor)))
      throw conflict('This waiver has ended already.', 'Nothing has to be done any more.');
    return this.one(id);
  }

  /** A waiver ends by itself; its links are checked again, so that what it covered is seen. */
  async endThoseThatAreOver(): Promise<void> {
    for (const waiver of await waiversThatAreOver(this.db)) await this.end(waiver, byItself);
  }

  private async end(waiver: KeptWaiver, endedBy: string): Promise<boolean> {
    const { id, holderId, thumbprint, step } = waiver;
    const isEnded = await this.db.transaction(async (tx) => {
      if (!(await endWaiver(tx, id, endedBy))) return false;
      await appendAudit(tx, {
        actor: endedBy,
        action: 'waiver ended',
        subject: holderId,
        details: { thumbprint, step },
      });
      return true;
    });
    if (isEnded) await this.counts(waiver, endedBy);
    return isEnded;
  }

  /** From now on it counts, or counts no more: the links that meet the certificate there are checked again. */
  private async counts({ holderId, thumbprint }: Met, actor: string): Promise<void> {
    await this.events.tell({ kind: 'trust-changed', applicationId: holderId });
    await this.checkThoseThatMeet({ holderId, thumbprint }, actor);
  }

  private async one(id: number): Promise<WaiverView> {
    const kept = await findWaiver(this.db, id);
    if (!kept) throw notFound('waiver', String(id));
    const names = await namesOf(this.db, [kept.holderId]);
    return viewOf(kept, (holderId) => names.get(holderId) ?? holderId);
  }
}

/** The waivers of a certificate, as they are shown. */
export async function waiverViews(
  db: Queryable,
  thumbprint: string,
  nameOf: (applicationId: string) => string,
): Promise<WaiverView[]> {
  return (await waiversFor(db, thumbprint)).map((kept) => viewOf(kept, nameOf)).reverse();
}

const iso = (time: string): string => new Date(time).toISOString();

function viewOf(kept: KeptWaiver, nameOf: (applicationId: string) => string): WaiverView {
  const { id, holderId, step, until, why, givenBy, givenAt, endedAt, endedBy } = kept;
  return {
    id,
    holderId,
    holder: nameOf(holderId),
    step,
    until: iso(until),
    why,
    givenBy,
    givenAt: iso(givenAt),
    ended: endedAt === null ? null : { at: iso(endedAt), by: endedBy ?? byItself },
  };
}

const badUntil = (says: string) => invalid(says, [{ place: 'until', says }]);
