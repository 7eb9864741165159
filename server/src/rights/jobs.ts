import type { MatchesWish, RightsReportWish, RightsWish } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { plantNameOf } from '../database/settings.js';
import { answerText } from '../http/serve.js';
import { serverWithIdentities } from './identities.js';
import { rightsMatchesOf } from './matches.js';
import { writersReport } from './report.js';
import { rightsChangesOf, rightsCsvOf, rightsViewOf } from './views.js';
import { mostReported, rightsWritersOf } from './writers.js';

/** What workers do for rights: whole address spaces are looked at each time. */
export const rightsJobs = {
  rightsView: async (db: Database, { serverId, wish }: { readonly serverId: string; readonly wish: RightsWish }) =>
    answerText('rights', await rightsViewOf(db, serverId, wish)),
  rightsWriters: async (db: Database, wish: Pick<RightsWish, 'find'>) =>
    answerText('rightsWriters', await rightsWritersOf(db, wish)),
  rightsReport: async (db: Database, { find = '', server, madeBy }: RightsReportWish & { readonly madeBy: string }) => {
    const only = server === undefined ? undefined : await serverWithIdentities(db, server);
    const [writers, plant] = await Promise.all([
      rightsWritersOf(db, { find }, only && [only.id], mostReported),
      plantNameOf(db),
    ]);
    return writersReport(writers, {
      plant,
      find,
      server: only?.name ?? null,
      madeAt: new Date().toISOString(),
      madeBy,
    });
  },
  rightsMatches: (db: Database, { serverId, wish }: { readonly serverId: string; readonly wish: MatchesWish }) =>
    rightsMatchesOf(db, serverId, wish),
  rightsCsv: (db: Database, { serverId }: { readonly serverId: string }) => rightsCsvOf(db, serverId),
  rightsChanges: async (db: Database, { before, after }: { readonly before: string; readonly after: string }) =>
    answerText('compareSnapshots', await rightsChangesOf(db, before, after)),
} as const;
export type RightsJobs = typeof rightsJobs;
