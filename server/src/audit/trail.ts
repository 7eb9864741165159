import { createHash } from 'node:crypto';
import { asc, desc, eq, gt, sql } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
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
const asItIsKept = (line: AuditLine): AuditLine => fitted(JSON.parse(JSON.stringify(line))) as AuditLine;

function fitted(value: unknown): unknown {
  if (typeof value === 'string') return wellFormed(value);
  if (Array.isArray(value)) return value.map(fitted);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [wellFormed(key), fitted(inner)]));
}

const wellFormed = (text: string): string =>
  text
    .replaceAll('\u0000', '\ufffd')
    .replace(/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '\ufffd');

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
  /** Sequences of rows that do not fit their own words or the row before, the first hundred; none where the chain is whole. */
  readonly breaks: readonly number[];
}

const pageSize = 1000;
const mostBreaks = 100;

/** Recomputes the whole chain. After a break it goes on with the row as it stands, so that each is told. */
export async function verifyAudit(db: Queryable): Promise<ChainReport> {
  let previousHash = beginning;
  let rows = 0;
  const breaks: number[] = [];
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
      previousHash = row.hash;
      after = row.sequence;
      rows += 1;
    }
    if (page.length < pageSize) return { rows, breaks };
  }
}

const shownRows = 200;

/** The newest lines, of one subject or of all. */
export async function newestAudit(db: Queryable, subject: string | undefined): Promise<(typeof audit.$inferSelect)[]> {
  const query = db.select().from(audit).$dynamic();
  return (subject === undefined ? query : query.where(eq(audit.subject, subject)))
    .orderBy(desc(audit.sequence))
    .limit(shownRows);
}
