import { pino } from 'pino';
import { readConfiguration } from './configuration.js';
import type { Configuration } from './configuration.js';
import { openDatabase } from '../database/database.js';
import type { Database } from '../database/database.js';
import { whyNot } from './why-not.js';

/** Runs a small program on the database; what goes wrong is one sentence on standard error, and exit status 1. */
export async function program(work: (db: Database, configuration: Configuration) => Promise<void>): Promise<void> {
  try {
    const configuration = readConfiguration(process.env);
    const { db, close } = await openDatabase(configuration.databaseUrl, pino({ level: 'warn' }));
    await work(db, configuration).finally(close);
  } catch (error) {
    console.error(whyNot(error));
    process.exitCode = 1;
  }
}
