import { and, asc, eq } from 'drizzle-orm';
import { isPlantFault, judgeLinkUrl, signInNameOf } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { applications, links } from '../database/schema.js';
import { signInGuard } from '../accounts/tries/guard.js';
import type { AccountToSignIn, GoesThere } from '../plant/classic-discovery.js';
import { subjectAround } from '../plant/part.js';
import type { SecretStore } from '../secrets/sealing.js';
import { passwordFor } from './kept-passwords.js';

const mostLinks = 20;

/**
 * The account of a link to a machine’s classic servers, whose password is kept for where it may go now; null: there is none.
 * @param goesThere whether a host and a port of a link’s address are the place that is asked: a password goes where its link
 * sends it, and to no other place that somebody says to be the same machine
 */
export async function accountOnMachine(
  db: Queryable,
  secrets: SecretStore,
  machineId: string,
  goesThere: GoesThere,
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
    const { kind, endpointUrl, pinnedAddress } = subject.link;
    const { parts } = judgeLinkUrl(kind, endpointUrl, subject.server.ports[0]);
    if (!parts || !(await goesThere(pinnedAddress ?? parts.host, parts.port))) continue;
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
