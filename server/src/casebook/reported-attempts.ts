import { and, desc, eq, inArray } from 'drizzle-orm';
import type { Plant } from '@loyal-hinge/core';
import { attemptOfReport } from '@loyal-hinge/core/casebook';
import type { Attempt } from '@loyal-hinge/core/casebook';
import type { Queryable } from '../database/database.js';
import { applicationCertificates, serverReports } from '../database/schema.js';

/** Reports that are looked at: the newest. */
const mostReports = 2000;
const ofServer = 'server ';

/** What servers say that they refused: attempts to connect, as far as their audit events tell. */
export async function reportedAttempts(db: Queryable, plant: Plant): Promise<readonly Attempt[]> {
  const rows = await db
    .select()
    .from(serverReports)
    .where(
      and(
        eq(serverReports.outcome, 'refused'),
        inArray(serverReports.kind, ['channel', 'session', 'sign-in', 'certificate']),
      ),
    )
    .orderBy(desc(serverReports.id))
    .limit(mostReports);
  if (rows.length === 0) return [];
  const owners = await ownersOf(
    db,
    rows.flatMap(({ thumbprint }) => thumbprint ?? []),
  );
  const applications = new Map(plant.applications.map((one) => [one.id, one]));
  const machineOf = (applicationId: string | null): string | null => {
    const machineId = applicationId === null ? undefined : applications.get(applicationId)?.machineId;
    return plant.machines.find(({ id }) => id === machineId)?.name ?? null;
  };
  return rows.reverse().flatMap(({ id, serverId, at, kind, code, says, userName, thumbprint }) => {
    const server = applications.get(serverId);
    const to = machineOf(serverId);
    if (server?.kind !== 'server' || to === null) return [];
    const client = thumbprint === null ? null : (owners.get(thumbprint) ?? null);
    const heard = {
      fileId: `${ofServer}${serverId}`,
      number: id,
      at: Date.parse(at),
      kind,
      code,
      says,
      user: userName,
    };
    return attemptOfReport({ ...heard, from: machineOf(client), to, port: server.ports[0] ?? null }) ?? [];
  });
}

/** The server whose audit event stands for a piece of evidence; null: it stands in a file. */
export const serverOfEvidence = (fileId: string): string | null =>
  fileId.startsWith(ofServer) ? fileId.slice(ofServer.length) : null;

async function ownersOf(db: Queryable, thumbprints: readonly string[]): Promise<ReadonlyMap<string, string>> {
  if (thumbprints.length === 0) return new Map();
  const rows = await db
    .select()
    .from(applicationCertificates)
    .where(inArray(applicationCertificates.thumbprint, [...new Set(thumbprints)]));
  return new Map(rows.map(({ thumbprint, applicationId }) => [thumbprint, applicationId]));
}
