import { pino } from 'pino';
import { openDatabase } from '../database/database.js';
import { readConfiguration } from '../configuration.js';
import { verifyAudit } from './trail.js';

const { db, close } = await openDatabase(readConfiguration(process.env).databaseUrl, pino({ level: 'warn' }));
const { rows, brokenAt } = await verifyAudit(db);
await close();
console.log(
  brokenAt === null
    ? `The audit trail is whole: ${rows} rows.`
    : `The audit trail is broken at row ${brokenAt}; ${rows} rows before it are whole.`,
);
process.exitCode = brokenAt === null ? 0 : 1;
