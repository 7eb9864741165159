import { and, eq, isNotNull } from 'drizzle-orm';
import type { Certificate } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { issued } from '../database/schema.js';

/** Whether the plant’s authority has revoked a certificate that it signed. */
export async function isRevoked(db: Queryable, { thumbprint }: Pick<Certificate, 'thumbprint'>): Promise<boolean> {
  const found = await db
    .select({ at: issued.revokedAt })
    .from(issued)
    .where(and(eq(issued.thumbprint, thumbprint), isNotNull(issued.revokedAt)));
  return found.length > 0;
}
