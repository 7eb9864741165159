import { createHash } from 'node:crypto';
import { and, asc, desc, eq, gt, gte, ilike, lt, or, sql } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
import { fitted } from '../database/fitted.js';
import { audit } from '../database/schema.js';

export interface AuditLine {
  readonly actor: string;
  readonly action: string;
  readonly subject: string;
  /** Never a secret. */
  readonly details: Record<string, unknown>;
}

const chainLock = 4_840_001;
const beginning = '0'.repeat(64);

/** Appends a line, chained to the one before; the lock keeps the chain in one order and ends with the transaction. */
export async function appendAudit(tx: Queryable, given: AuditLine): Promise<void> {
  const line = asItIsKept(given);
  await tx.execute(sql`select pg_advisory_xact_lock(${chainLock})`);
  const [last] = await tx.select({ hash: audit.hash }).from(audit).orderBy(desc(audit.sequence)).limit(1);
  const previousHash = last?.hash ?? beginning;
  const at = new Date().toISOString();
  await tx.insert(audit).values({ ...line, at, previousHash, hash: hashOf(previousHash, at, line) });
}

/** Texts of others stand in the trail: what the database can’t keep as it is would be hashed otherwise than it is stored. */
const asItIsKept = (line: AuditLine): AuditLine => fitted(JSON.parse(JSON.stringify(line)) as AuditLine);

/** SHA-256 over the hash before and the row's own words; details with their keys in order. */
function hashOf(previousHash: string, at: string, { actor, action, subject, details }: AuditLine): string {
  return createHash('sha256')
    .update(JSON.stringify([previousHash, at, actor, action, subject, ordered(details)]))
    .digest('hex');
}

function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([left], [right]) => (left < right ? -1 : 1))
      .map(([key, inner]) => [key, ordered(inner)]),
  );
}

export interface ChainReport {
  readonly rows: number;
  readonly lastSequence: number;
  /** Sequences of rows that do not fit their own words or the row before, the first hundred; none where the chain is whole. */
  readonly breaks: readonly number[];
  /** The hashes of the rows that were asked for, where they are there. */
  readonly hashes: Readonly<Record<number, string>>;
}

const pageSize = 1000;
const mostBreaks = 100;

/** Recomputes the whole chain. After a break it goes on with the row as it stands, so that each is told. */
export async function verifyAudit(db: Queryable, asked: readonly number[] = []): Promise<ChainReport> {
  const wanted = new Set(asked);
  const hashes: Record<number, string> = {};
  const breaks: number[] = [];
  let previousHash = beginning;
  let rows = 0;
  for (let after = 0; ;) {
    const page = await db
      .select()
      .from(audit)
      .where(gt(audit.sequence, after))
      .orderBy(asc(audit.sequence))
      .limit(pageSize);
    for (const row of page) {
      const fits = row.previousHash === previousHash && row.hash === hashOf(previousHash, row.at, row);
      if (!fits && breaks.length < mostBreaks) breaks.push(row.sequence);
      if (wanted.has(row.sequence)) hashes[row.sequence] = row.hash;
      previousHash = row.hash;
      after = row.sequence;
      rows += 1;
    }
    if (page.length < pageSize) return { rows, lastSequence: after, breaks, hashes };
  }
}

export type AuditRow = typeof audit.$inferSelect;
const shownRows = 200;

/** Which rows are looked for; each part left out means all. */
export type AuditWish = Partial<Record<'subject' | 'actor' | 'action' | 'find' | 'from' | 'to', string | undefined>> & {
  /** Only rows before this one: the way to the next page. */
  readonly before?: string | undefined;
};

/** The newest rows that fit. */
export async function newestAudit(db: Queryable, wish: AuditWish = {}, most = shownRows): Promise<AuditRow[]> {
  const { subject, actor, action, find, from, to, before } = wish;
  const words = find === undefined || find === '' ? undefined : `%${find.replace(/[\\%_]/g, '\\$&')}%`;
  return db
    .select()
    .from(audit)
    .where(
      and(
        subject ? eq(audit.subject, subject) : undefined,
        actor ? eq(audit.actor, actor) : undefined,
        action ? eq(audit.action, action) : undefined,
        from ? gte(audit.at, from) : undefined,
        // A day stands for all of it: every moment of the day begins with it.
        to ? lt(audit.at, `${to}~`) : undefined,
        before ? lt(audit.sequence, Number(before)) : undefined,
        words === undefined
          ? undefined
          : or(
              ...[audit.actor, audit.action, audit.subject].map((column) => ilike(column, words)),
              sql`${audit.details}::text ilike ${words}`,
            ),
      ),
    )
    .orderBy(desc(audit.sequence))
    .limit(most);
}

const rowsForWords = 20_000;

/** Everybody and everything that the newest rows speak of, for choosing. */
export async function auditWords(db: Queryable): Promise<{ actors: string[]; actions: string[] }> {
  const { rows } = await db.execute<{ kind: 'actors' | 'actions'; word: string }>(sql`
    with newest as (select actor, action from audit order by sequence desc limit ${rowsForWords})
    select 'actors' as kind, actor as word from newest union select 'actions', action from newest order by word`);
  const of = (kind: string): string[] => rows.flatMap((row) => (row.kind === kind ? [row.word] : []));
  return { actors: of('actors'), actions: of('actions') };
}

/** All rows that fit, the newest first, a page at a time. */
export async function* allAudit(db: Queryable, wish: AuditWish): AsyncGenerator<readonly AuditRow[]> {
  for (let before = wish.before; ;) {
    const page = await newestAudit(db, { ...wish, before }, pageSize);
    if (page.length > 0) yield page;
    if (page.length < pageSize) return;
    before = String(page.at(-1)?.sequence);
  }
}
