import type { ProposedOrder } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import type { ChangeWordsOf } from './port.js';
import { linesAsTheyLie, linesThatHold, shownOrder } from './shown.js';

/** What workers do for orders, with the words of all capabilities. */
export const orderJobs = (words: ChangeWordsOf) => ({
  order: (db: Database, { id }: { readonly id: string }) => shownOrder(db, words, id),
  linesThatHold: (db: Database, { id }: { readonly id: string }) => linesThatHold(db, words, id),
  linesAsTheyLie: (db: Database, { lines }: Pick<ProposedOrder, 'lines'>) => linesAsTheyLie(db, words, lines),
});
export type OrderJobs = ReturnType<typeof orderJobs>;
