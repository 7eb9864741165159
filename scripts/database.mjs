import { ensurePostgres } from './lib/install.mjs';
import { startCluster } from './lib/cluster.mjs';

/** node scripts/database.mjs halt FOLDER PORT | start FOLDER PORT: pulls the database’s plug, and puts it back, for the tests. */
const [action, dataFolder, port] = process.argv.slice(2);
const cluster = await startCluster(await ensurePostgres(), dataFolder, Number(port));
if (action === 'halt') await cluster.halt();
