import { eq, inArray } from 'drizzle-orm';
import { sayFloor } from '@loyal-hinge/core';
import type { EntryFloor } from '@loyal-hinge/core';
import type { AnswerOf, EntryFloors, ExceptionView, GiveException } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import { applications, links } from '../../database/schema.js';
import { writeSetting } from '../../database/settings.js';
import type { EventLog } from '../../events/event-log.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { propose } from '../../proposals/store.js';
import { wantsAnother } from '../../proposals/wants-another.js';
import {
  addException,
  allExceptions,
  endException,
  exceptionsThatAreOver,
  findException,
  floorSetting,
  openException,
  plantFloorOf,
} from './store.js';
import type { KeptException } from './store.js';

const longestMs = 366 * 86_400_000;
const mostShown = 500;
/** Who ends an exception when nobody does. */
const byItself = 'its date';

/** What the plant accepts of endpoints and users, and for whom something else holds until a day. */
export class Floors {
  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
    /** Checks links afresh, so that what is accepted now is seen on them. */
    private readonly askForChecks: (linkIds: readonly string[], actor: string) => Promise<unknown>,
  ) {}

  async all(): Promise<EntryFloors> {
    const [floor, kept] = await Promise.all([plantFloorOf(this.db), allExceptions(this.db, mostShown)]);
    return { floor, exceptions: await this.viewsOf(kept) };
  }

  /** Where the plant wants a second person, it waits for one as a proposal. */
  async ask(floor: EntryFloor, actor: string): Promise<AnswerOf<'putEntryFloor'>> {
    const before = await plantFloorOf(this.db);
    if (!(await wantsAnother(this.db))) {
      await this.set(floor, actor);
      return { floor, waitsAs: null };
    }
    const says = [`Before: ${sayFloor(before)}.`, `After: ${sayFloor(floor)}.`];
    const title = 'Change what the plant accepts of endpoints and users';
    return { floor: before, waitsAs: await propose(this.db, { body: { kind: 'floor', floor }, title, says }, actor) };
  }

  async set(after: EntryFloor, actor: string): Promise<void> {
    await this.db.transaction(async (tx) => {
      const before = await plantFloorOf(tx);
      await writeSetting(tx, floorSetting, after);
      await appendAudit(tx, { actor, action: 'floor changed', subject: 'entry', details: { before, after } });
    });
    await this.events.tell({ kind: 'entry-changed' });
  }

  /** Where the plant wants a second person, it waits for one as a proposal. */
  async askException(wish: GiveException, actor: string): Promise<AnswerOf<'giveException'>> {
    if (!(await wantsAnother(this.db))) return { exception: await this.give(wish, actor), waitsAs: null };
    const name = await this.refuseUnfit(wish);
    const says = [`Accepted: ${sayFloor(wish.floor)}.`, `Until ${wish.until.slice(0, 10)}.`, `Why: ${wish.reason}`];
    const title = `Add an exception for ${name}`;
    return {
      exception: null,
      waitsAs: await propose(this.db, { body: { kind: 'exception', wish }, title, says }, actor),
    };
  }

  async give(wish: GiveException, actor: string): Promise<ExceptionView> {
    await this.refuseUnfit(wish);
    const id = await this.db.transaction(async (tx) => {
      const open = await openException(tx, wish);
      if (open)
        throw conflict(
          `There is an exception for it already, until ${new Date(open.until).toISOString().slice(0, 10)}.`,
          'End that one first.',
        );
      const { subjectId: subject, ...details } = wish;
      await appendAudit(tx, { actor, action: 'exception made', subject, details });
      return addException(tx, wish, actor);
    });
    await this.counts(wish, actor);
    return this.one(id);
  }

  async end(id: number, actor: string): Promise<ExceptionView> {
    const kept = await findException(this.db, id);
    if (!kept) throw notFound('exception', String(id));
    if (!(await this.endNow(kept, actor)))
      throw conflict('This exception has ended already.', 'Nothing has to be done any more.');
    return this.one(id);
  }

  /** An exception ends by itself; its links are checked again, so that what it covered is seen. */
  async endThoseThatAreOver(): Promise<void> {
    for (const kept of await exceptionsThatAreOver(this.db)) await this.endNow(kept, byItself);
  }

  private async endNow(kept: KeptException, actor: string): Promise<boolean> {
    const isEnded = await this.db.transaction(async (tx) => {
      if (!(await endException(tx, kept.id, actor))) return false;
      const details = { reason: kept.reason };
      await appendAudit(tx, { actor, action: 'exception ended', subject: kept.subjectId, details });
      return true;
    });
    if (isEnded) await this.counts(kept, actor);
    return isEnded;
  }

  private async counts({ of, subjectId }: Pick<GiveException, 'of' | 'subjectId'>, actor: string): Promise<void> {
    await this.events.tell({ kind: 'entry-changed' });
    const column = of === 'link' ? links.id : links.serverId;
    const rows = await this.db.select({ id: links.id }).from(links).where(eq(column, subjectId));
    await this.askForChecks(
      rows.map(({ id }) => id),
      actor,
    );
  }

  /** @returns the name of the server or link that it is about */
  private async refuseUnfit({ of, subjectId, until }: GiveException): Promise<string> {
    const end = Date.parse(until);
    if (end <= Date.now()) throw badUntil('This date has passed.');
    if (end > Date.now() + longestMs)
      throw badUntil('An exception lasts for a year at most; then it is looked at again.');
    const name = (await this.namesOf([subjectId])).get(`${of} ${subjectId}`);
    if (name === undefined) throw notFound(of, subjectId);
    return name;
  }

  /** Names of servers and links, by what they are and their ids. */
  private async namesOf(ids: readonly string[]): Promise<ReadonlyMap<string, string>> {
    if (ids.length === 0) return new Map();
    const [servers, some] = await Promise.all([
      this.db
        .select({ id: applications.id, name: applications.name, kind: applications.kind })
        .from(applications)
        .where(inArray(applications.id, [...ids])),
      this.db
        .select({ id: links.id, name: links.name })
        .from(links)
        .where(inArray(links.id, [...ids])),
    ]);
    return new Map([
      ...servers.filter(({ kind }) => kind === 'server').map(({ id, name }) => [`server ${id}`, name] as const),
      ...some.map(({ id, name }) => [`link ${id}`, name] as const),
    ]);
  }

  private async one(id: number): Promise<ExceptionView> {
    const kept = await findException(this.db, id);
    const [view] = kept ? await this.viewsOf([kept]) : [];
    if (!view) throw notFound('exception', String(id));
    return view;
  }

  private async viewsOf(kept: readonly KeptException[]): Promise<ExceptionView[]> {
    const names = await this.namesOf([...new Set(kept.map(({ subjectId }) => subjectId))]);
    return kept.map(({ id, of, subjectId, floor, reason, until, givenBy, givenAt, endedAt, endedBy }) => ({
      id,
      of,
      subjectId,
      subject: names.get(`${of} ${subjectId}`) ?? subjectId,
      floor,
      reason,
      until: iso(until),
      givenBy,
      givenAt: iso(givenAt),
      ended: endedAt === null ? null : { at: iso(endedAt), by: endedBy ?? byItself },
    }));
  }
}

const iso = (time: string): string => new Date(time).toISOString();
const badUntil = (says: string) => invalid(says, [{ place: 'until', says }]);
