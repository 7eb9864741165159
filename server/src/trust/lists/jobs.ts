import type { ListWish } from '@loyal-hinge/core';
import type { Database } from '../../database/database.js';
import { changesFor } from './list-wishes.js';

/** What workers do for lists: whatever looks through all that is known. */
export const listJobs = {
  listChanges: async (db: Database, { holderId, wish }: { readonly holderId: string; readonly wish: ListWish }) => [
    ...(await changesFor(db, holderId, wish)),
  ],
} as const;
export type ListJobs = typeof listJobs;
