import { pino } from 'pino';
import { openDatabase } from '../database/database.js';
import { prepareServerRole } from '../database/server-role.js';
import { whyNot } from './why-not.js';
import { readAll } from './read-all.js';

/**
 * node prepare-database.js: brings the tables up to date as their owner, and gives the running server a role of its own; that
 * role’s password comes on standard input.
 */
try {
  const ownerUrl = process.env['HINGE_DATABASE_URL'] ?? '';
  const { close } = await openDatabase(ownerUrl, pino({ level: 'warn' }));
  await close();
  await prepareServerRole(ownerUrl, (await readAll(process.stdin)).trim());
} catch (error) {
  console.error(whyNot(error));
  process.exitCode = 1;
}
