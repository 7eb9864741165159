import { and, asc, eq } from 'drizzle-orm';
import { isPlantFault, signInNameOf } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { applications, links } from '../database/schema.js';
import { signInGuard } from '../accounts/tries/guard.js';
import type { AccountToSignIn } from '../plant/classic-discovery.js';
import { subjectAround } from '../plant/part.js';
import type { SecretStore } from '../secrets/sealing.js';
import { passwordFor } from './kept-passwords.js';

const mostLinks = 20;

/** The account of a link to a machine’s classic servers whose password is kept for that machine; null: there is none that may be tried now. */
export async function accountOnMachine(
  db: Queryable,
  secrets: SecretStore,
  machineId: string,
): Promise<AccountToSignIn | null> {
  const found = await db
    .select({ id: links.id })
    .from(links)
    .innerJoin(applications, eq(applications.id, links.serverId))
    .where(and(eq(applications.machineId, machineId), eq(links.kind, 'classic')))
    .orderBy(asc(links.id))
    .limit(mostLinks);
  for (const { id } of found) {
    const subject = await subjectAround(db, id);
    if (isPlantFault(subject) || subject.link.identity.kind !== 'user') continue;
    const { password } = await passwordFor(db, secrets, subject);
    if (password === null) continue;
    const guard = signInGuard(db, secrets, subject, password);
    if ((await guard.whyPaused()) !== null) continue;
    return {
      userName: signInNameOf(subject.link.identity),
      password,
      note: (isLetIn) => guard.note(isLetIn ? null : 'BadUserAccessDenied'),
    };
  }
  return null;
}
