import type { Application } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { findApplication } from './part.js';

/** An application of the plant; throws a problem where there is none. */
export async function knownApplication(db: Queryable, id: string): Promise<Application> {
  const found = await findApplication(db, id);
  if (!found) throw notFound('application', id);
  return found;
}
