import type { Router } from 'express';
import { searched } from '@loyal-hinge/contract';
import type { SearchHit } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { mostHits, searchDatabase } from './search.js';

/** Certificates by words of their subjects or by their thumbprints, at most so many. */
export type FindCertificates = (wish: {
  readonly find: string;
  readonly most: number;
}) => Promise<readonly Omit<SearchHit, 'kind'>[]>;

export function searchRoutes(
  router: Router,
  findActor: FindActor,
  db: Database,
  findCertificates: FindCertificates,
): void {
  serve(router, findActor, 'search', async ({ query }) => {
    const find = query['find'] ?? '';
    const [ofDatabase, ofCertificates] = await Promise.all([
      searchDatabase(db, find),
      findCertificates({ find, most: mostHits }),
    ]);
    const hits = [...ofDatabase, ...ofCertificates.map((hit) => ({ kind: 'certificate' as const, ...hit }))];
    return { hits: hits.sort((one, other) => searched.indexOf(one.kind) - searched.indexOf(other.kind)) };
  });
}
