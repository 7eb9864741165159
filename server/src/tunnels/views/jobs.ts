import type { Database } from '../../database/database.js';
import { settingUpOf, takingDownOf } from '../orders/lines.js';
import { tunnelChoicesOf, tunnelsViewOf, tunnelViewOf } from './views.js';

/** What workers do for tunnels: the links that could go through one are judged by all rules. */
export const tunnelJobs = {
  tunnelsView: (db: Database) => tunnelsViewOf(db),
  tunnelView: (db: Database, { tunnelId }: { readonly tunnelId: string }) => tunnelViewOf(db, tunnelId),
  tunnelChoices: (db: Database, { tunnelId }: { readonly tunnelId: string }) => tunnelChoicesOf(db, tunnelId),
  tunnelOrderLines: (db: Database, { tunnelId }: { readonly tunnelId: string }) => settingUpOf(db, tunnelId),
  takingDownLines: (db: Database, { tunnelId }: { readonly tunnelId: string }) => takingDownOf(db, tunnelId),
} as const;
export type TunnelJobs = typeof tunnelJobs;
