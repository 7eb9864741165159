import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../database/database.js';
import { dismissals } from '../../database/schema.js';

/** What somebody has looked at and put off, by holder and thumbprint. */
export async function allDismissals(
  db: Queryable,
): Promise<ReadonlyMap<string, { readonly by: string; readonly at: string }>> {
  return new Map(
    (await db.select().from(dismissals)).map(({ applicationId, thumbprint, by, at }) => [
      `${applicationId} ${thumbprint}`,
      { by, at: new Date(at).toISOString() },
    ]),
  );
}

/** Puts a certificate off, or takes it up again where nobody is named. */
export async function dismiss(
  tx: Queryable,
  applicationId: string,
  thumbprint: string,
  by: string | null,
): Promise<void> {
  if (by !== null) {
    await tx.insert(dismissals).values({ applicationId, thumbprint, by }).onConflictDoNothing();
    return;
  }
  await tx
    .delete(dismissals)
    .where(and(eq(dismissals.applicationId, applicationId), eq(dismissals.thumbprint, thumbprint)));
}
