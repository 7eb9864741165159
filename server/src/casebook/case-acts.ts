import { asc, inArray } from 'drizzle-orm';
import type { Case, CaseAct } from '@loyal-hinge/core/casebook';
import type { CaseActWish } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { caseActs, people } from '../database/schema.js';
import type { EventLog } from '../events/event-log.js';
import { invalid } from '../http/problems.js';

/** A case as others find it again: what its attempts have in common, and when it failed last. */
export interface NamedCase {
  readonly id: string;
  readonly key: string;
  readonly last: number;
  readonly title: string;
}

/** What people do about cases: each is in the audit trail, and told to whoever looks. */
export class CaseActs {
  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
  ) {}

  async add(one: NamedCase, { kind, text, to }: CaseActWish, by: string): Promise<void> {
    await this.db.transaction(async (tx) => {
      if (kind === 'assign' && to !== null && !(await peopleHere(tx)).includes(to))
        throw invalid('There is nobody of this name.', [{ place: 'to', says: 'Choose somebody who signs in here.' }]);
      const row = { caseKey: one.key, aboutAt: new Date(one.last).toISOString(), kind, by, text };
      await tx.insert(caseActs).values({ ...row, to: kind === 'assign' ? to : null });
      await appendAudit(tx, { actor: by, action: said[kind], subject: one.id, details: { case: one.title, text, to } });
    });
    await this.events.tell({ kind: 'casebook-changed' });
  }
}

const said: Readonly<Record<CaseActWish['kind'], string>> = {
  note: 'note on a case',
  assign: 'case given to somebody',
  close: 'case closed',
  reopen: 'case opened again',
};

/** Everybody who may sign in. */
export async function peopleHere(db: Queryable): Promise<string[]> {
  const rows = await db.select({ name: people.name, out: people.disabledAt }).from(people).orderBy(asc(people.name));
  return rows.filter(({ out }) => out === null).map(({ name }) => name);
}

/** What was done about some cases, by their ids, in order. */
export async function actsOf(
  db: Queryable,
  cases: readonly (Pick<Case, 'key' | 'first' | 'last'> & { readonly id: string })[],
): Promise<ReadonlyMap<string, readonly CaseAct[]>> {
  if (cases.length === 0) return new Map();
  const rows = await db
    .select()
    .from(caseActs)
    .where(inArray(caseActs.caseKey, [...new Set(cases.map(({ key }) => key))]))
    .orderBy(asc(caseActs.id));
  return new Map(
    cases.map(({ id, key, first, last }) => [
      id,
      rows
        .filter((row) => row.caseKey === key && Date.parse(row.aboutAt) >= first && Date.parse(row.aboutAt) <= last)
        .map(({ kind, at, by, text, to }) => ({ kind, at: Date.parse(at), by, text, to })),
    ]),
  );
}
