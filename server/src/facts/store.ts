import { eq, sql } from 'drizzle-orm';
import type { Fact, LinkAssessment, Verdict } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { assessments, facts, keptFacts } from '../database/schema.js';

export async function addFacts(
  db: Queryable,
  checkId: string,
  linkId: string,
  from: number,
  added: readonly Fact[],
): Promise<void> {
  if (added.length === 0) return;
  const rows = added.map((fact, index) => {
    const { id, at, source, ...body } = fact;
    return { id, position: from + index, checkId, linkId, source, at, body };
  });
  await db.insert(facts).values(rows).onConflictDoNothing();
}

/** The facts of a check, in their order, however old it is. */
export async function factsOfCheck(db: Queryable, checkId: string): Promise<Fact[]> {
  const there = await db.select().from(facts).where(eq(facts.checkId, checkId)).orderBy(facts.position);
  const rows =
    there.length > 0
      ? there
      : await db.select().from(keptFacts).where(eq(keptFacts.checkId, checkId)).orderBy(keptFacts.position);
  return rows.map((row) => ({ ...row.body, id: row.id, source: row.source, at: new Date(row.at).toISOString() }));
}

export interface KeptAssessment {
  readonly linkId: string;
  readonly checkId: string;
  readonly at: string;
  readonly body: LinkAssessment;
}

/** Keeps what a check amounts to; nothing where the plant has the link no more. */
export async function keepAssessment(
  db: Queryable,
  { linkId, checkId, at, body }: Pick<KeptAssessment, 'linkId' | 'checkId' | 'at' | 'body'>,
): Promise<void> {
  const { state, headline, partedAt, leadingCause } = body;
  const verdicts = body.steps.map(({ verdict }) => verdict);
  await db.execute(sql`insert into assessments (link_id, check_id, at, body, state, headline, parted_at, leading_cause, verdicts)
    select ${linkId}, ${checkId}, ${at}::timestamptz, ${JSON.stringify(body)}::jsonb, ${state}, ${headline}, ${partedAt},
      ${leadingCause}, ${sql.param(verdicts)}::text[]
    where exists (select 1 from links where id = ${linkId})
    on conflict (link_id) do update set (check_id, at, body, state, headline, parted_at, leading_cause, verdicts)
      = (excluded.check_id, excluded.at, excluded.body, excluded.state, excluded.headline, excluded.parted_at,
         excluded.leading_cause, excluded.verdicts)`);
}

/** The verdicts of steps, by link, as boards show them. */
export async function allVerdicts(
  db: Queryable,
  linkIds?: readonly string[],
): Promise<ReadonlyMap<string, readonly Verdict[]>> {
  const rows = await db
    .select({ linkId: assessments.linkId, verdicts: assessments.verdicts })
    .from(assessments)
    .where(ofThese(assessments.linkId, linkIds));
  return new Map(rows.map(({ linkId, verdicts }) => [linkId, verdicts]));
}

export async function assessmentOf(db: Queryable, linkId: string): Promise<KeptAssessment | null> {
  const [row] = await db
    .select({ linkId: assessments.linkId, checkId: assessments.checkId, at: assessments.at, body: assessments.body })
    .from(assessments)
    .where(eq(assessments.linkId, linkId));
  return row ? { ...row, at: new Date(row.at).toISOString() } : null;
}
