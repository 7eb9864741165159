import { whatIf } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import { routes } from '@loyal-hinge/contract';
import type { AnswerOf, ProposedOrder } from '@loyal-hinge/contract';
import { verifyAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { tellEvent } from '../events/tell-event.js';
import { parsedText } from '../http/parsed.js';
import { answerText } from '../http/serve.js';
import { linkRows } from '../links/rows.js';
import { linesAsTheyLie, linesThatHold } from '../orders/holding.js';
import { shownOrder } from '../orders/shown.js';
import { wantsAnother } from '../orders/wants-another.js';
import { machinesToCsv } from '../plant/machines-csv.js';
import { PlantKeeping } from '../plant/service.js';
import { readPlant } from '../plant/store.js';
import { findProposal } from '../proposals/store.js';
import { currentAuthority } from '../trust/authorities/store.js';
import { authorityView, authorityViews } from '../trust/authorities/view.js';
import { exportedBundle, importedBundle } from '../trust/bundles.js';
import { knownTrust } from '../trust/known-trust.js';
import { nodeVerifier } from '../trust/node-signatures.js';
import { recognise } from '../trust/recognise.js';
import { stepBackOrder } from '../trust/step-back.js';
import { certificatePage } from '../trust/views/certificate.js';
import { holderView } from '../trust/views/holder.js';
import type { HeldPassword } from '../trust/views/holder.js';
import { horizonView } from '../trust/views/horizon.js';
import { overviewOf } from '../trust/views/overview.js';
import { plansOf } from '../trust/views/plans.js';
import { setAsideEntries } from '../trust/views/set-aside.js';
import { linksThatMeet } from '../trust/waivers.js';

const plantIn = (db: Database): PlantKeeping => new PlantKeeping(db, { tell: (event) => tellEvent(db, event) });

/** What is too heavy for the thread that answers everybody: each takes and gives plain values, and works on the database alone. */
export const jobs = {
  linkRows: async (db: Database) => answerText('links', { links: await linkRows(db) }),
  plant: async (db: Database) => answerText('plant', (await readPlant(db)) as AnswerOf<'plant'>),
  exportPlant: async (db: Database) => {
    const plant = await readPlant(db);
    return answerText('exportPlant', { format: 'loyal-hinge/plant', version: 1, plant } as AnswerOf<'exportPlant'>);
  },
  exportMachines: async (db: Database) => machinesToCsv((await readPlant(db)).machines),
  trustOverview: async (db: Database, { reading }: { readonly reading: readonly string[] }) =>
    answerText('trust', await overviewOf(await knownTrust(db), new Set(reading))),
  trustPlans: async (db: Database) =>
    answerText('trustPlans', await plansOf(await knownTrust(db), await currentAuthority(db))),
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
  horizon: async (db: Database) => answerText('horizon', await horizonView(await knownTrust(db))),
  certificatePage: async (db: Database, { thumbprint }: { readonly thumbprint: string }) =>
    answerText('certificatePage', await certificatePage(db, thumbprint)),
  trustLinks: async (db: Database) => (await knownTrust(db)).trust.links,
  linksThatMeet: (db: Database, met: { readonly holderId: string; readonly thumbprint: string }) =>
    linksThatMeet(db, met.holderId, met.thumbprint),
  stepBack: (db: Database, step: { readonly applicationId: string; readonly entryId: number }) =>
    stepBackOrder(db, step.applicationId, step.entryId),
  verifyAudit: (db: Database, { asked }: { readonly asked: readonly number[] }) => verifyAudit(db, asked),
  authorities: (db: Database) => authorityViews(db),
  authority: (db: Database, { thumbprint }: { readonly thumbprint: string }) => authorityView(db, thumbprint),
  order: (db: Database, { id }: { readonly id: string }) => shownOrder(db, id),
  linesThatHold: (db: Database, { id }: { readonly id: string }) => linesThatHold(db, id),
  linesAsTheyLie: (db: Database, { lines }: Pick<ProposedOrder, 'lines'>) => linesAsTheyLie(db, lines),
  exportBundle: (db: Database, { applicationId }: { readonly applicationId: string }) =>
    exportedBundle(db, applicationId),
  importBundle: (db: Database, { applicationId, text, actor }: Sent & { readonly applicationId: string }) =>
    importedBundle(db, applicationId, parsedText(routes.importBundle.body, text), actor),
  importPlant: async (db: Database, { text, actor }: Sent) => {
    const { plant } = parsedText(routes.importPlant.body, text);
    if (await wantsAnother(db)) return plantIn(db).proposeReplacing(plant, actor);
    await plantIn(db).replace(plant, actor);
    return null;
  },
  replacePlant: async (db: Database, { proposalId }: { readonly proposalId: string }) => {
    const kept = await findProposal(db, proposalId);
    if (kept?.body.kind === 'plant') await plantIn(db).replace(kept.body.plant, kept.proposedBy);
  },
  importMachines: async (db: Database, { text, actor }: Sent) => {
    const { csv } = parsedText(routes.importMachines.body, text);
    return plantIn(db).addMachines(csv, actor);
  },
  recognise: async (db: Database, { text }: Sent) => recognise(db, parsedText(routes.recognise.body, text).files),
} as const;

/** A body as it was sent, and who sent it. */
interface Sent {
  readonly text: string;
  readonly actor: string;
}

export type JobName = keyof typeof jobs;
export type JobInput<Name extends JobName> = Parameters<(typeof jobs)[Name]>[1];
export type JobResult<Name extends JobName> = Awaited<ReturnType<(typeof jobs)[Name]>>;
