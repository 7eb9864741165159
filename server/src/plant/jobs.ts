import { routes } from '@loyal-hinge/contract';
import type { AnswerOf } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { tellEvent } from '../events/tell-event.js';
import { parsedText } from '../http/parsed.js';
import { answerText } from '../http/serve.js';
import type { SentBody } from '../http/serve.js';
import { findProposal } from '../proposals/store.js';
import { wantsAnother } from '../proposals/wants-another.js';
import { unreadPlant, wholePlant } from './incoming.js';
import { machinesToCsv } from './machines-csv.js';
import { PlantKeeping } from './service.js';
import { readPlant } from './store.js';

const plantIn = (db: Database): PlantKeeping => new PlantKeeping(db, { tell: (event) => tellEvent(db, event) });

/** What workers do for the plant. */
export const plantJobs = {
  plant: async (db: Database) => answerText('plant', (await readPlant(db)) as AnswerOf<'plant'>),
  exportPlant: async (db: Database) => {
    const plant = await readPlant(db);
    return answerText('exportPlant', { format: 'loyal-hinge/plant', version: 1, plant } as AnswerOf<'exportPlant'>);
  },
  exportMachines: async (db: Database) => machinesToCsv((await readPlant(db)).machines),
  importPlant: async (db: Database, { text, actor }: SentBody) => {
    if (await wantsAnother(db))
      return plantIn(db).proposeReplacing(parsedText(routes.importPlant.body, text).plant, actor);
    await plantIn(db).replace(unreadPlant(text), actor);
    return null;
  },
  replacePlant: async (db: Database, { proposalId }: { readonly proposalId: string }) => {
    const kept = await findProposal(db, proposalId);
    if (kept?.body.kind === 'plant') await plantIn(db).replace(wholePlant(kept.body.plant), kept.proposedBy);
  },
  importMachines: async (db: Database, { text, actor }: SentBody) => {
    const { csv } = parsedText(routes.importMachines.body, text);
    return plantIn(db).addMachines(csv, actor);
  },
} as const;
export type PlantJobs = typeof plantJobs;
