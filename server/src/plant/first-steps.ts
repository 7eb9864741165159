import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { firstStepIds, firstSteps } from '@loyal-hinge/core';
import type { FirstStep, FirstStepId } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { applications, checks, clientCertificates, links, machines, settings, zones } from '../database/schema.js';

/** What shows that a step was done. */
const signs: Readonly<Record<FirstStepId, SQL>> = {
  ranges: sql`${settings} where key = 'declaredRanges' and value <> '[]'`,
  zone: sql`${zones}`,
  machine: sql`${machines}`,
  server: sql`${applications} where kind = 'server'`,
  client: sql`${applications} where kind = 'client'`,
  // A client’s certificate is kept together with its key.
  certificate: sql`${clientCertificates}`,
  link: sql`${links}`,
  check: sql`${checks} where state = 'done'`,
};

/** How far the plant has come on its first day. */
export async function firstStepsOf(db: Queryable): Promise<readonly FirstStep[]> {
  const looks = firstStepIds.map((id) => sql`select ${id}::text as step where exists (select from ${signs[id]})`);
  const { rows } = await db.execute<{ step: FirstStepId }>(sql.join(looks, sql` union all `));
  return firstSteps(new Set(rows.map(({ step }) => step)));
}
