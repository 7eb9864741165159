import type { Database } from '../../database/database.js';
import { authorityView, authorityViews } from './view.js';

/** What workers do for the authorities. */
export const authorityJobs = {
  authorities: (db: Database) => authorityViews(db),
  authority: (db: Database, { thumbprint }: { readonly thumbprint: string }) => authorityView(db, thumbprint),
} as const;
export type AuthorityJobs = typeof authorityJobs;
