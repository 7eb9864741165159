import type { Application } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { readPlant } from './store.js';

/** An application of the plant; throws a problem where there is none. */
export async function knownApplication(db: Queryable, id: string): Promise<Application> {
  const found = (await readPlant(db, [])).applications.find((application) => application.id === id);
  if (!found) throw notFound('application', id);
  return found;
}
