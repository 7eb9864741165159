import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { startCluster } from './lib/cluster.mjs';
import { command } from './lib/command.mjs';
import { ensurePostgres } from './lib/install.mjs';
import { giveUp } from './lib/say.mjs';

/**
 * node scripts/database.mjs ACTION FOLDER PORT: pulls the database’s plug in one way or another, and puts it back, for the tests.
 * start; halt (at once, as in a power cut); stop (connections are cut, work is finished); kill (its main process).
 */
const [action, dataFolder, port] = process.argv.slice(2);
await command(async () => {
  const cluster = await startCluster(await ensurePostgres(), dataFolder, Number(port));
  if (action === 'halt') await cluster.halt();
  else if (action === 'stop') await cluster.stop();
  else if (action === 'kill')
    process.kill(Number(readFileSync(join(cluster.folder, 'postmaster.pid'), 'utf8').split('\n')[0]), 'SIGKILL');
  else if (action !== 'start') giveUp(`There is no action “${action}”.`);
});
