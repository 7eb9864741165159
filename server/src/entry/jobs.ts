import type { DoorRule } from '@loyal-hinge/core';
import type { EntryPage } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { answerText } from '../http/serve.js';
import { plantDoors } from './servers-at-doors.js';
import { doorTurnsOf, entryClosingOf, entryViewOf } from './views.js';

/** What workers do for doors: all of the plant’s are looked at each time. */
export const entryJobs = {
  entryView: async (db: Database, wish: EntryPage) => answerText('entry', entryViewOf(await plantDoors(db), wish)),
  entryClosing: async (db: Database, _: undefined) => answerText('entryClosing', entryClosingOf(await plantDoors(db))),
  doorWhatIf: async (db: Database, { rules }: { readonly rules: readonly DoorRule[] }) =>
    answerText('doorWhatIf', doorTurnsOf(await plantDoors(db), rules)),
} as const;
export type EntryJobs = typeof entryJobs;
