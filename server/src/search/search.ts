import { and, asc, desc, eq, sql } from 'drizzle-orm';
import type { SQL, SQLWrapper } from 'drizzle-orm';
import type { SearchHit } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { applications, board, machines, workOrders, zones } from '../database/schema.js';

/** So many of each kind are told: whoever wants another one types more of its name. */
export const mostHits = 6;

/** Machines, applications, links and work orders whose names, hosts or addresses hold all of the words. */
export async function searchDatabase(db: Queryable, find: string): Promise<readonly SearchHit[]> {
  const words = wordsIn(find);
  if (words.length === 0) return [];
  const [ofMachines, ofApplications, ofLinks, ofOrders] = await Promise.all([
    db
      .select({ id: machines.id, name: machines.name, about: zones.name })
      .from(machines)
      .innerJoin(zones, eq(zones.id, machines.zoneId))
      .where(
        holdsAll(
          sql`concat_ws(' ', ${machines.name}, array_to_string(${machines.hostNames}, ' '), array_to_string(${machines.addresses}, ' '))`,
          words,
        ),
      )
      .orderBy(asc(machines.name))
      .limit(mostHits),
    db
      .select({ id: applications.id, name: applications.name, about: machines.name })
      .from(applications)
      .innerJoin(machines, eq(machines.id, applications.machineId))
      .where(holdsAll(sql`concat_ws(' ', ${applications.name}, ${applications.applicationUri})`, words))
      .orderBy(asc(applications.name))
      .limit(mostHits),
    db
      .select({ id: board.linkId, name: board.name, about: board.state })
      .from(board)
      .where(and(...words.map((word) => sql`${board.search} like ${pattern(word.toLowerCase())}`)))
      .orderBy(asc(board.rank), asc(board.place), asc(board.name))
      .limit(mostHits),
    db
      .select({ id: workOrders.id, name: workOrders.title, about: workOrders.state })
      .from(workOrders)
      .where(holdsAll(workOrders.title, words))
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

export const wordsIn = (find: string): readonly string[] => find.split(/\s+/).filter(Boolean).slice(0, 20);

const hitsOf = (kind: SearchHit['kind'], rows: readonly Omit<SearchHit, 'kind'>[]): readonly SearchHit[] =>
  rows.map((row) => ({ kind, ...row }));

const pattern = (word: string): string => `%${word.replace(/[\\%_]/g, '\\$&')}%`;
const holdsAll = (text: SQLWrapper, words: readonly string[]): SQL | undefined =>
  and(...words.map((word) => sql`${text} ilike ${pattern(word)}`));
