import { and, count, desc, eq, inArray, sql } from 'drizzle-orm';
import { reportOf } from '@loyal-hinge/core';
import type { ServerReportView } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { applicationCertificates, applications, serverReports } from '../database/schema.js';
import type { HeardAuditEvent } from '../ua/audit-events.js';

/** Older ones go. */
const mostKept = 10_000;
const mostShown = 500;

export async function addReports(
  tx: Queryable,
  serverId: string,
  heard: readonly HeardAuditEvent[],
  heardAt: string,
): Promise<void> {
  if (heard.length === 0) return;
  await tx.insert(serverReports).values(
    heard.map((event) => ({
      serverId,
      at: event.at ?? heardAt,
      ...reportOf(event),
      userName: event.user,
      thumbprint: event.thumbprint,
      heardAt,
    })),
  );
  const oldest = tx
    .select({ id: serverReports.id })
    .from(serverReports)
    .where(eq(serverReports.serverId, serverId))
    .orderBy(desc(serverReports.id))
    .offset(mostKept)
    .limit(1);
  await tx
    .delete(serverReports)
    .where(and(eq(serverReports.serverId, serverId), sql`${serverReports.id} <= (${oldest})`));
}

/** What a server has said of itself, the newest first. */
export async function reportsOf(
  db: Queryable,
  serverId: string,
): Promise<{ readonly reports: ServerReportView[]; readonly total: number; readonly refused: number }> {
  const ofServer = eq(serverReports.serverId, serverId);
  const [rows, [counts]] = await Promise.all([
    db.select().from(serverReports).where(ofServer).orderBy(desc(serverReports.id)).limit(mostShown),
    db
      .select({ total: count(), refused: sql<number>`count(*) filter (where ${serverReports.outcome} = 'refused')` })
      .from(serverReports)
      .where(ofServer),
  ]);
  const named = await applicationsOf(
    db,
    rows.flatMap(({ thumbprint }) => thumbprint ?? []),
  );
  return {
    reports: rows.map(({ id, at, kind, outcome, says, userName, thumbprint }) => ({
      id,
      at: new Date(at).toISOString(),
      kind,
      outcome,
      says,
      userName,
      application: thumbprint === null ? null : (named.get(thumbprint) ?? `certificate ${thumbprint}`),
    })),
    total: counts?.total ?? 0,
    refused: Number(counts?.refused ?? 0),
  };
}

async function applicationsOf(db: Queryable, thumbprints: readonly string[]): Promise<ReadonlyMap<string, string>> {
  if (thumbprints.length === 0) return new Map();
  const rows = await db
    .select({ thumbprint: applicationCertificates.thumbprint, name: applications.name })
    .from(applicationCertificates)
    .innerJoin(applications, eq(applications.id, applicationCertificates.applicationId))
    .where(inArray(applicationCertificates.thumbprint, [...new Set(thumbprints)]));
  return new Map(rows.map(({ thumbprint, name }) => [thumbprint, name]));
}
