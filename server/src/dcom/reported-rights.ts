import { judgeLinkUrl, programOf, rightsOfLink } from '@loyal-hinge/core';
import type { ClassicRightsFact, LinkInPlant } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { newestExport } from './store.js';

/** What the newest export of a server’s machine says of a classic link; null: it is none, or no export knows its program. */
export async function reportedRights(
  db: Queryable,
  { link, serverMachine }: Pick<LinkInPlant, 'link' | 'serverMachine'>,
): Promise<Omit<ClassicRightsFact, 'kind'> | null> {
  if (link.kind !== 'classic') return null;
  const { parts } = judgeLinkUrl(link.kind, link.endpointUrl);
  const kept = parts && (await newestExport(db, serverMachine.id));
  if (!kept) return null;
  const userName = link.identity.kind === 'user' ? link.identity.userName : '';
  const { settings, accounts, about } = kept;
  return rightsOfLink(settings, accounts, { program: programOf(parts), userName, takenAt: about.takenAt });
}
