import { whatIf } from '@loyal-hinge/core';
import type { Strategy, TrustChange } from '@loyal-hinge/core';
import { routes } from '@loyal-hinge/contract';
import type { GridPage, PartiesWish } from '@loyal-hinge/contract';
import { nodeVerifier } from '../certificates/node-signatures.js';
import type { Database } from '../database/database.js';
import { parsedText } from '../http/parsed.js';
import { answerText } from '../http/serve.js';
import type { SentBody } from '../http/serve.js';
import { authorityJobs } from './authorities/jobs.js';
import { currentAuthority } from './authorities/store.js';
import { exportedBundle, importedBundle } from './bundles/bundles.js';
import { recognise } from './found/recognise.js';
import { keeperOf } from './known/keeper.js';
import { listJobs } from './lists/jobs.js';
import { knownTrust } from './known/known-trust.js';
import { linksThatMeet } from './known/links-that-meet.js';
import { certificatePage } from './views/certificate.js';
import { certificatesNamed } from './views/certificates-named.js';
import { holderView } from './views/holder.js';
import type { HeldPassword } from './views/holder.js';
import { horizonView } from './views/horizon.js';
import { findingOf, judgedOn } from './views/finding.js';
import { gridCsv, overviewOf, partiesOf } from './views/overview.js';
import { plannedOrder, plansOf } from './views/plans.js';
import { setAsideEntries } from './views/set-aside.js';
import { stepBackOrder } from './views/step-back.js';

/** What somebody asks for, and whose lists are being read just now. */
export interface Asked<Wish> {
  readonly wish: Wish;
  readonly reading: readonly string[];
}

/** What workers do for trust as a whole. */
export const trustJobs = {
  trustOverview: async (db: Database, { wish, reading }: Asked<GridPage>) =>
    answerText('trust', await overviewOf(await keeperOf(db).judgedNow(), wish, new Set(reading))),
  exportTrust: async (db: Database, wish: GridPage) => gridCsv(await keeperOf(db).judgedNow(), wish),
  judgeOn: async (db: Database, { from }: { readonly from: number }) => judgedOn(await keeperOf(db).judgedNow(), from),
  trustFinding: async (db: Database) => findingOf(await keeperOf(db).judgedNow()),
  trustParties: async (db: Database, { wish, reading }: Asked<PartiesWish>) =>
    answerText('trustParties', partiesOf(await knownTrust(db), wish, new Set(reading))),
  certificatesNamed: async (db: Database, wish: { readonly find: string; readonly most: number }) =>
    certificatesNamed(await knownTrust(db), wish),
  trustPlans: async (db: Database, { find }: { readonly find: string | undefined }) =>
    answerText('trustPlans', await plansOf(await keeperOf(db).judgedNow(), await currentAuthority(db), find)),
  plannedOrder: async (db: Database, { strategy }: { readonly strategy: Strategy }) =>
    plannedOrder(await keeperOf(db).judgedNow(), strategy, await currentAuthority(db)),
  trustWhatIf: async (db: Database, { changes }: { readonly changes: readonly TrustChange[] }) => {
    const { trust, shelf } = await knownTrust(db);
    return [...(await whatIf(trust, changes, shelf, nodeVerifier))];
  },
  trustHolder: async (
    db: Database,
    told: { readonly applicationId: string; readonly reading: readonly string[]; readonly held: HeldPassword },
  ) =>
    answerText(
      'trustHolder',
      await holderView(db, await knownTrust(db), told.applicationId, new Set(told.reading), told.held),
    ),
  setAside: async (db: Database) => answerText('setAside', { entries: await setAsideEntries(db) }),
  horizon: async (db: Database) => answerText('horizon', await horizonView(await keeperOf(db).judgedNow())),
  certificatePage: async (db: Database, { thumbprint }: { readonly thumbprint: string }) =>
    answerText('certificatePage', await certificatePage(db, thumbprint)),
  trustLinks: async (db: Database) => (await knownTrust(db)).trust.links,
  linksThatMeet: (db: Database, met: { readonly holderId: string; readonly thumbprint: string }) =>
    linksThatMeet(db, met.holderId, met.thumbprint),
  stepBack: (db: Database, step: { readonly applicationId: string; readonly entryId: number }) =>
    stepBackOrder(db, step.applicationId, step.entryId),
  exportBundle: (db: Database, { applicationId }: { readonly applicationId: string }) =>
    exportedBundle(db, applicationId),
  importBundle: (db: Database, { applicationId, text, actor }: SentBody & { readonly applicationId: string }) =>
    importedBundle(db, applicationId, parsedText(routes.importBundle.body, text), actor),
  recognise: async (db: Database, { text }: SentBody) => recognise(db, parsedText(routes.recognise.body, text).files),
  ...listJobs,
  ...authorityJobs,
} as const;
export type TrustJobs = typeof trustJobs;
