import { asc, desc, eq, sql } from 'drizzle-orm';
import type { SQL, SQLWrapper } from 'drizzle-orm';
import { wordsIn } from '@loyal-hinge/core';
import type { SearchHit } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { hasWords } from '../database/has-words.js';
import { applications, board, machines, workOrders, zones } from '../database/schema.js';
import { searched } from '../plant/searched.js';

/** So many of each kind are told: whoever wants another one types more of its name. */
export const mostHits = 6;

/**
 * Machines, applications, links and work orders that hold all of the words, wherever the plant’s tables and the board look for
 * them, those first that are named so; work orders in their titles.
 */
export async function searchDatabase(db: Queryable, find: string): Promise<readonly SearchHit[]> {
  if (wordsIn(find).length === 0) return [];
  const [ofMachines, ofApplications, ofLinks, ofOrders] = await Promise.all([
    db
      .select({ id: machines.id, name: machines.name, about: zones.name })
      .from(machines)
      .innerJoin(zones, eq(zones.id, machines.zoneId))
      .where(hasWords(searched.machines, find))
      .orderBy(namedSo(machines.name, find), asc(machines.name))
      .limit(mostHits),
    db
      .select({ id: applications.id, name: applications.name, about: machines.name })
      .from(applications)
      .innerJoin(machines, eq(machines.id, applications.machineId))
      .where(hasWords(searched.applications, find))
      .orderBy(namedSo(applications.name, find), asc(applications.name))
      .limit(mostHits),
    db
      .select({ id: board.linkId, name: board.name, about: board.state })
      .from(board)
      .where(hasWords(board.search, find))
      .orderBy(asc(board.rank), asc(board.place), asc(board.name))
      .limit(mostHits),
    db
      .select({ id: workOrders.id, name: workOrders.title, about: workOrders.state })
      .from(workOrders)
      .where(hasWords(sql`lower(${workOrders.title})`, find))
      .orderBy(desc(workOrders.proposedAt))
      .limit(mostHits),
  ]);
  return [
    ...hitsOf('machine', ofMachines),
    ...hitsOf('application', ofApplications),
    ...hitsOf('link', ofLinks),
    ...hitsOf('work order', ofOrders),
  ];
}

/** What has all of the words in its name comes before what has them elsewhere. */
const namedSo = (name: SQLWrapper, find: string): SQL => sql`${hasWords(sql`lower(${name})`, find)} desc`;

const hitsOf = (kind: SearchHit['kind'], rows: readonly Omit<SearchHit, 'kind'>[]): readonly SearchHit[] =>
  rows.map((row) => ({ kind, ...row }));
