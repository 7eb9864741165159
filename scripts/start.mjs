import { join, resolve } from 'node:path';
import { stdin } from 'node:process';
import { askHidden, askYes } from './lib/ask.mjs';
import { copyBeforeMigration } from './lib/backup.mjs';
import { ensureBuild } from './lib/build.mjs';
import { startCluster } from './lib/cluster.mjs';
import { command, optionsOf } from './lib/command.mjs';
import { putPerson } from './lib/demo-plant.mjs';
import { ensurePackages, ensurePostgres } from './lib/install.mjs';
import { keepAll } from './lib/keep-all.mjs';
import { startLog } from './lib/keep-running.mjs';
import { onlyOne } from './lib/only-one.mjs';
import { prepareDatabase } from './lib/prepare-database.mjs';
import { root, setupScript } from './lib/places.mjs';
import { runOwn } from './lib/run.mjs';
import { giveUp, say } from './lib/say.mjs';
import { whereItIs } from './lib/call-own.mjs';
import { portOf, serverEnvironment } from './lib/serve.mjs';

const leastLetters = 10;
const noPassword = 'No password was given. Start again in a terminal, or set HINGE_FIRST_PASSWORD.';

await command(async ({ add, isStopping }) => {
  const options = optionsOf({
    data: { type: 'string' },
    install: { type: 'boolean' },
    'forget-secrets': { type: 'boolean' },
    role: { type: 'string' },
  });
  const role = roleOf(options.role);
  const shared = role === 'all' ? null : sharedDatabase(role);
  const dataFolder = resolve(options.data ?? process.env.HINGE_DATA ?? join(root, '.data', 'own'));
  const one = onlyOne(dataFolder);
  add(() => one.leave());
  const log = startLog(dataFolder);
  const port = await portOf(dataFolder, log);
  await ensurePackages();
  const postgres = shared
    ? null
    : await ensurePostgres(
        dataFolder,
        () => options.install ?? askYes('PostgreSQL is missing. Install Debian’s package “postgresql” now?'),
      );
  await ensureBuild();
  const server = await keepAll({
    startDatabase: (port) => shared ?? startCluster(postgres, dataFolder, port),
    environmentOf: (url) => ({ ...serverEnvironment(url, dataFolder), HINGE_ROLE: role }),
    // Said for this start: a server that is started again later must not forget what is lost by then.
    atFirst: options['forget-secrets'] ? { HINGE_FORGET_SECRETS: 'yes' } : {},
    beforeServer: async (environment, cluster) => {
      // Whoever keeps the database has brought it up to date.
      if (shared) return;
      await copyBeforeMigration({ postgres, cluster, dataFolder, log });
      await prepareDatabase(cluster);
      if (!(await anybody(environment))) await askForAdministrator(environment);
    },
    port,
    nextPort: () => portOf(dataFolder, log),
    dataFolder,
    log,
    add,
    isStopping,
  });
  one.tell(server.url);
  if (role === 'worker')
    return say(
      `\nThis worker carries queued checks out; its health is at ${server.url}/api/health.\nStop with Ctrl-C.`,
    );
  say(
    `\nLoyal Hinge is ready at ${whereItIs(server.url, dataFolder)}\nStop with Ctrl-C. The data are in ${dataFolder}.`,
  );
});

function roleOf(text = 'all') {
  if (['all', 'web', 'worker'].includes(text)) return text;
  return giveUp(`“${text}” is no role: a process is “web”, “worker” or “all” (docs/operations.md).`);
}

/** A database that other processes share, kept elsewhere: this one neither starts nor stops it. */
function sharedDatabase(role) {
  const url = process.env.HINGE_DATABASE_URL;
  if (!url)
    giveUp(
      `A ${role} process shares the database of others: set HINGE_DATABASE_URL to it, and bring their sealing key (docs/operations.md).`,
    );
  return { serverUrl: url, stop: () => undefined, ended: new Promise(() => undefined) };
}

function anybody(environment) {
  return runOwn(setupScript('anybody'), [], { env: environment }).then(
    () => true,
    (error) => (error.code === 3 ? false : Promise.reject(error)),
  );
}

async function askForAdministrator(environment) {
  const name = process.env.HINGE_FIRST_NAME ?? 'administrator';
  const given = process.env.HINGE_FIRST_PASSWORD;
  if (given === undefined)
    say(`Nobody can sign in yet. Choose a password for “${name}”, of at least ${leastLetters} letters.`);
  for (;;) {
    const password = given ?? (await askHidden('Password: ', noPassword));
    if (password.length >= leastLetters) return putPerson(environment, name, 'administrator', password);
    if (given !== undefined || !stdin.isTTY)
      giveUp(
        `The password of “${name}” needs at least ${leastLetters} letters${given === undefined ? '' : '; HINGE_FIRST_PASSWORD has fewer'}. Start again with a longer one.`,
      );
    say('That is too short.');
  }
}
