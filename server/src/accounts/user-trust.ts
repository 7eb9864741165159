import { eq, sql } from 'drizzle-orm';
import { shownCertificateOf, trustsUser } from '@loyal-hinge/core';
import type { ServerAccess, ShownCertificate } from '@loyal-hinge/core';
import type { GridCellView, UserTrust } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { links } from '../database/schema.js';
import { keptUserCertificates } from './certificates/store.js';
import { seenAccess } from './store.js';

/**
 * Which servers trust which user certificates, as their lists were read last, and where links sign in with them: columns
 * and cells as in the trust grid of applications.
 */
export async function userTrustOf(db: Database): Promise<UserTrust> {
  const [kept, seen, using] = await Promise.all([
    keptUserCertificates(db),
    seenAccess(db),
    db
      .select({ id: links.id, serverId: links.serverId, name: sql<string>`${links.identity}->>'certificate'` })
      .from(links)
      .where(eq(sql`${links.identity}->>'kind'`, 'certificate')),
  ]);
  const columns = new Map<string, UserTrust['columns'][number]>();
  const shown = new Map<string, ShownCertificate>();
  const needed = new Map<string, string[]>();
  for (const { name, certificate, above } of kept) {
    const { thumbprint, summary } = certificate;
    columns.set(thumbprint, { thumbprint, name, subject: summary.subject, notAfter: summary.notAfter });
    shown.set(thumbprint, shownCertificateOf(certificate, above));
    for (const link of using)
      if (link.name === name) {
        const key = cellKey(link.serverId, thumbprint);
        needed.set(key, [...(needed.get(key) ?? []), link.id]);
      }
  }
  const cells = new Map<string, GridCellView>();
  for (const [serverId, { access }] of seen)
    for (const { thumbprint, subject } of access.userCertificates ?? []) {
      if (!columns.has(thumbprint)) columns.set(thumbprint, { thumbprint, name: subject, subject, notAfter: null });
      const key = cellKey(serverId, thumbprint);
      cells.set(key, cellOf(serverId, thumbprint, access, shown.get(thumbprint) ?? null, needed.get(key) ?? []));
    }
  for (const { serverId, name } of using) {
    const thumbprint = kept.find((one) => one.name === name)?.certificate.thumbprint;
    if (thumbprint === undefined) continue;
    const key = cellKey(serverId, thumbprint);
    const access = seen.get(serverId)?.access ?? null;
    cells.set(key, cellOf(serverId, thumbprint, access, shown.get(thumbprint) ?? null, needed.get(key) ?? []));
  }
  return {
    columns: [...columns.values()].sort((left, right) => (left.name < right.name ? -1 : 1)),
    cells: [...cells.values()],
  };
}

const cellKey = (serverId: string, thumbprint: string): string => `${serverId} ${thumbprint}`;

export function cellOf(
  holderId: string,
  thumbprint: string,
  access: Pick<ServerAccess, 'userCertificates'> | null,
  certificate: ShownCertificate | null,
  linkIds: readonly string[],
): GridCellView {
  const cell = { holderId, thumbprint, linkIds: [...linkIds] };
  const list = access?.userCertificates ?? null;
  if (!access || !list)
    return { ...cell, standing: 'not known', status: '', says: 'Its list of user certificates has not been read yet.' };
  if (list.some((listed) => listed.thumbprint === thumbprint))
    return { ...cell, standing: 'directly', status: 'Good', says: 'In its list of user certificates.' };
  const isTrusted = certificate && trustsUser(access, certificate);
  if (isTrusted === true)
    return { ...cell, standing: 'through an issuer', status: 'Good', says: 'An authority above it is in its list.' };
  if (isTrusted === false)
    return {
      ...cell,
      standing: 'not at all',
      status: 'BadIdentityTokenRejected',
      says: 'Neither it nor an authority above it is in its list of user certificates.',
    };
  return { ...cell, standing: 'not known', status: '', says: 'Not all authorities above it are known here.' };
}
