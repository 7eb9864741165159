import pg from 'pg';
import { whyNot } from './why-not.js';

const anybody = 0;
const failed = 1;
const nobody = 3;
/** PostgreSQL’s code where there is no such table. */
const noTable = '42P01';

/**
 * node anybody.js: exit status 0 where somebody can sign in, 3 where nobody can. It changes nothing, waits for no tables
 * and brings nothing else along: every start asks.
 */
const client = new pg.Client({ connectionString: process.env['HINGE_DATABASE_URL'], connectionTimeoutMillis: 10_000 });
client.on('error', () => undefined);
try {
  await client.connect();
  const { rowCount } = await client.query('select from people limit 1');
  process.exitCode = rowCount === 0 ? nobody : anybody;
} catch (error) {
  const isNew = error instanceof Error && 'code' in error && error.code === noTable;
  if (!isNew) console.error(whyNot(error));
  process.exitCode = isNew ? nobody : failed;
} finally {
  await client.end().catch(() => undefined);
}
