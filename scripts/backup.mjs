import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { stdin } from 'node:process';
import { askHidden } from './lib/ask.mjs';
import { aboutIn, openBackup, restoreInto, writeBackup } from './lib/backup.mjs';
import { startCluster } from './lib/cluster.mjs';
import { command, optionsOf } from './lib/command.mjs';
import { ensurePackages, ensurePostgres } from './lib/install.mjs';
import { onlyOne } from './lib/only-one.mjs';
import { root } from './lib/places.mjs';
import { giveUp, say } from './lib/say.mjs';

/**
 * npm run backup -- --to FOLDER: a backup into a new folder, while the server runs or not.
 * npm run restore -- --from FOLDER: a backup into an installation that has no data yet.
 */
const leastLetters = 12;

await command(async ({ add }) => {
  const { to, from, data } = optionsOf({ to: { type: 'string' }, from: { type: 'string' }, data: { type: 'string' } });
  const dataFolder = resolve(data ?? process.env.HINGE_DATA ?? join(root, '.data', 'own'));
  await ensurePackages();
  if (to !== undefined) await backUp(resolve(to), dataFolder, add);
  else if (from !== undefined) await restore(resolve(from), dataFolder, add);
  else giveUp('Say where to: “npm run backup -- --to FOLDER”, or from where: “npm run restore -- --from FOLDER”.');
});

async function backUp(folder, dataFolder, add) {
  if (!existsSync(join(dataFolder, 'database.json'))) giveUp(`There are no data in ${dataFolder} to back up.`);
  const passphrase = await passphraseFor('Passphrase for the sealing key in the backup: ', true);
  const postgres = await ensurePostgres(dataFolder);
  const isRunning = existsSync(join(dataFolder, 'cluster', 'postmaster.pid'));
  const cluster = await startCluster(postgres, dataFolder);
  if (!isRunning) add(cluster.stop);
  await writeBackup({ postgres, cluster, dataFolder, folder, passphrase });
  say(
    `The backup is in ${folder}. Keep its passphrase elsewhere: without it the kept passwords and keys can’t be opened.`,
  );
  if (!isRunning) await cluster.stop();
}

async function restore(folder, dataFolder, add) {
  aboutIn(folder);
  const passphrase = await passphraseFor('Passphrase of the backup: ', false);
  const { sealingKey, dump, madeAt } = await openBackup(folder, passphrase);
  if (['database.json', 'cluster', 'sealing-key'].some((name) => existsSync(join(dataFolder, name))))
    giveUp(`${dataFolder} has data already, and nothing is overwritten. Name an empty folder with “--data FOLDER”.`);
  mkdirSync(dataFolder, { recursive: true, mode: 0o755 });
  const one = onlyOne(dataFolder);
  add(() => one.leave());
  const postgres = await ensurePostgres(dataFolder);
  const cluster = await startCluster(postgres, dataFolder);
  add(cluster.stop);
  await restoreInto({ postgres, cluster, dump });
  if (sealingKey !== null) writeFileSync(join(dataFolder, 'sealing-key'), sealingKey, { mode: 0o600, flag: 'wx' });
  await cluster.stop();
  one.leave();
  say(`The backup of ${madeAt} is restored into ${dataFolder}. Start with “npm start -- --data ${dataFolder}”.`);
}

async function passphraseFor(question, isNew) {
  const passphrase =
    process.env.HINGE_BACKUP_PASSPHRASE ??
    (await askHidden(question, 'No passphrase was given. Start again in a terminal, or set HINGE_BACKUP_PASSPHRASE.'));
  if (!isNew) return passphrase;
  if (passphrase.length < leastLetters) giveUp(`The passphrase needs at least ${leastLetters} letters.`);
  if (stdin.isTTY && process.env.HINGE_BACKUP_PASSPHRASE === undefined) {
    if ((await askHidden('The same again: ', 'No passphrase was given.')) !== passphrase)
      giveUp('The two are not the same. Nothing was backed up.');
  }
  return passphrase;
}
