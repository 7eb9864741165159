import { count, eq } from 'drizzle-orm';
import { firstSteps } from '@loyal-hinge/core';
import type { FirstStep } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { applications, checks, clientCertificates, links, machines, zones } from '../database/schema.js';
import { readSetting } from '../database/settings.js';

/** How far the plant has come on its first day. */
export async function firstStepsOf(db: Queryable): Promise<readonly FirstStep[]> {
  const one = async (counted: Promise<{ readonly count: number }[]>): Promise<number> => (await counted)[0]?.count ?? 0;
  const [ranges, ofZones, ofMachines, servers, clients, certificates, ofLinks, ofChecks] = await Promise.all([
    readSetting(db, 'declaredRanges'),
    one(db.select({ count: count() }).from(zones)),
    one(db.select({ count: count() }).from(machines)),
    one(db.select({ count: count() }).from(applications).where(eq(applications.kind, 'server'))),
    one(db.select({ count: count() }).from(applications).where(eq(applications.kind, 'client'))),
    one(db.select({ count: count() }).from(clientCertificates)),
    one(db.select({ count: count() }).from(links)),
    one(db.select({ count: count() }).from(checks).where(eq(checks.state, 'done'))),
  ]);
  return firstSteps({
    declaredRanges: Array.isArray(ranges) ? ranges.length : 0,
    zones: ofZones,
    machines: ofMachines,
    servers,
    clients,
    clientCertificates: certificates,
    links: ofLinks,
    checks: ofChecks,
  });
}
