import { and, desc, eq, inArray, lt, ne, sql } from 'drizzle-orm';
import type { Attempt, Happening } from '@loyal-hinge/core/casebook';
import type { EvidenceRow } from '@loyal-hinge/contract';
import { copyIn } from '../database/copy-in.js';
import type { Queryable } from '../database/database.js';
import { fitted } from '../database/fitted.js';
import { attempts, evidence, happenings } from '../database/schema.js';

/** Attempts that cases are made of, at most: the newest. */
export const mostAttempts = 20_000;

type Row = typeof evidence.$inferSelect;
const iso = (at: string | null): string | null => (at === null ? null : new Date(at).toISOString());
const rowOf = ({ sha256: _, firstAt, lastAt, broughtAt, ...row }: Row): EvidenceRow => ({
  ...row,
  firstAt: iso(firstAt),
  lastAt: iso(lastAt),
  broughtAt: new Date(broughtAt).toISOString(),
});

/** All files that were brought, the newest first. */
export async function allEvidence(db: Queryable): Promise<readonly EvidenceRow[]> {
  return (await db.select().from(evidence).orderBy(desc(evidence.broughtAt))).map(rowOf);
}

export async function findEvidence(db: Queryable, id: string): Promise<EvidenceRow | null> {
  const [row] = await db.select().from(evidence).where(eq(evidence.id, id));
  return row ? rowOf(row) : null;
}

/** One that this person has begun and that was cut off; null: there is none. */
export async function cutOffEvidence(
  db: Queryable,
  wish: { readonly name: string; readonly bytes: number },
  broughtBy: string,
): Promise<EvidenceRow | null> {
  const [row] = await db
    .select()
    .from(evidence)
    .where(
      and(
        eq(evidence.state, 'arriving'),
        eq(evidence.name, wish.name),
        eq(evidence.bytes, wish.bytes),
        eq(evidence.broughtBy, broughtBy),
      ),
    )
    .orderBy(desc(evidence.broughtAt))
    .limit(1);
  return row ? rowOf(row) : null;
}

export async function addEvidence(
  tx: Queryable,
  row: Pick<EvidenceRow, 'id' | 'name' | 'bytes' | 'broughtBy'>,
): Promise<void> {
  await tx.insert(evidence).values({ ...row, state: 'arriving', clock: { zone: 'UTC', aheadSeconds: 0 } });
}

/**
 * Notes that more of a file is here; with its last byte it is to be read, whatever happens to this process.
 * @returns false where something else has come meanwhile
 */
export async function noteReceived(
  db: Queryable,
  { id, bytes }: Pick<EvidenceRow, 'id' | 'bytes'>,
  from: number,
  received: number,
): Promise<boolean> {
  const changed = await db
    .update(evidence)
    .set({ received, state: received === bytes ? 'reading' : 'arriving' })
    .where(and(eq(evidence.id, id), eq(evidence.received, from), eq(evidence.state, 'arriving')))
    .returning({ id: evidence.id });
  return changed.length > 0;
}

export async function changeEvidence(
  tx: Queryable,
  id: string,
  changed: Partial<Omit<Row, 'id' | 'broughtBy' | 'broughtAt'>>,
): Promise<void> {
  await tx.update(evidence).set(changed).where(eq(evidence.id, id));
}

/** Those whose reading was begun, and not ended: the server stopped meanwhile. */
export async function evidenceBeingRead(db: Queryable): Promise<readonly string[]> {
  return (await db.select({ id: evidence.id }).from(evidence).where(eq(evidence.state, 'reading'))).map(({ id }) => id);
}

/** Files that were brought before a moment, by their ids. */
export async function evidenceBefore(db: Queryable, before: string): Promise<readonly string[]> {
  return (await db.select({ id: evidence.id }).from(evidence).where(lt(evidence.broughtAt, before))).map(
    ({ id }) => id,
  );
}

export async function removeEvidence(tx: Queryable, id: string): Promise<boolean> {
  return (await tx.delete(evidence).where(eq(evidence.id, id)).returning({ id: evidence.id })).length > 0;
}

/** What a file tells of. */
export interface Told {
  readonly attempts: readonly Attempt[];
  readonly happenings: readonly Happening[];
}

export async function forgetTold(tx: Queryable, evidenceId: string): Promise<void> {
  await tx.delete(attempts).where(eq(attempts.evidenceId, evidenceId));
  await tx.delete(happenings).where(eq(happenings.evidenceId, evidenceId));
}

export async function addTold(
  tx: Queryable,
  { id: evidenceId, broughtAt }: Pick<EvidenceRow, 'id' | 'broughtAt'>,
  told: Told,
): Promise<void> {
  if (told.attempts.length > 0)
    await copyIn(
      tx,
      'attempts',
      ['evidence_id', 'brought_at', 'started_at', 'has_failed', 'body'],
      rowsOf(evidenceId, broughtAt, told.attempts),
    );
  if (told.happenings.length > 0)
    await copyIn(
      tx,
      'happenings',
      ['evidence_id', 'at', 'computer', 'says', 'position'],
      told.happenings.map(({ at, computer, says, position }) => {
        const words = fitted({ computer, says });
        return [evidenceId, new Date(at).toISOString(), words.computer, words.says, position];
      }),
    );
}

/** As JSON that the database takes; only what holds letters that it doesn’t take is gone through. */
function fittedJson(attempt: Attempt): string {
  const text = JSON.stringify(attempt);
  return /\\u(?:0000|d[89a-f])/.test(text) ? JSON.stringify(fitted(attempt)) : text;
}

function* rowsOf(evidenceId: string, broughtAt: string, all: readonly Attempt[]) {
  for (const attempt of all)
    yield [
      evidenceId,
      broughtAt,
      new Date(attempt.start).toISOString(),
      String(attempt.ended.hasFailed || attempt.remarks.length > 0),
      fittedJson(attempt),
    ];
}

/** The newest attempts that failed or show something else, in the order of their times. */
export async function failedAttempts(
  db: Queryable,
): Promise<{ readonly all: readonly Attempt[]; readonly isWhole: boolean }> {
  const rows = await db
    .select({ body: attempts.body })
    .from(attempts)
    .where(eq(attempts.hasFailed, true))
    .orderBy(desc(attempts.startedAt), desc(attempts.id))
    .limit(mostAttempts + 1);
  return {
    all: rows
      .slice(0, mostAttempts)
      .map(({ body }) => body)
      .reverse(),
    isWhole: rows.length <= mostAttempts,
  };
}

/** Names of files by their ids, and what they are. */
export async function namesOfEvidence(
  db: Queryable,
  ids: readonly string[],
): Promise<ReadonlyMap<string, Pick<EvidenceRow, 'name' | 'form'>>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: evidence.id, name: evidence.name, form: evidence.form })
    .from(evidence)
    .where(inArray(evidence.id, [...ids]));
  return new Map(rows.map(({ id, ...row }) => [id, row]));
}

/**
 * The file of the same content; null: there is none, and none can come before the transaction ends: of two that are read at once,
 * one waits for the other.
 */
export async function sameEvidence(tx: Queryable, id: string, sha256: string): Promise<EvidenceRow | null> {
  await tx.execute(sql`select pg_advisory_xact_lock(hashtextextended(${`evidence ${sha256}`}, 0))`);
  const [row] = await tx
    .select()
    .from(evidence)
    .where(and(eq(evidence.sha256, sha256), ne(evidence.id, id)));
  return row ? rowOf(row) : null;
}
