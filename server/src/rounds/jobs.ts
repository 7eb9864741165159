import { timelineQuery } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { timelineOf } from './timeline.js';

/** What workers do for rounds: a period of a large plant is much to add up. */
export const roundsJobs = {
  timeline: (db: Database, query: Readonly<Record<string, unknown>>) => timelineOf(db, timelineQuery.parse(query)),
} as const;
export type RoundsJobs = typeof roundsJobs;
